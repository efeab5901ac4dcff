import { api, body, said, type Schemas } from '$lib/api/client';

export const AUDIENCES = [
	{ value: 'student', label: 'Students' },
	{ value: 'family', label: 'Families' }
];
export const PARTS = [
	{ value: 'points', label: 'Points' },
	{ value: 'levels', label: 'Performance level' },
	{ value: 'standards', label: 'By standard, in plain words' },
	{ value: 'answers', label: 'Their own answers' },
	{ value: 'right', label: 'Right answers' },
	{ value: 'solutions', label: 'Solutions' },
	{ value: 'comments', label: 'Comments' }
];
/** Shown beside one's own answers, and so not without them. */
const BESIDE = ['right', 'solutions', 'comments'];

/** Results of one test in a window on their way to students and families. */
export class Releasing {
	page = $state.raw<Schemas['ReleasePage'] | null>(null);
	sessions = $state<string[]>([]);
	audiences = $state<string[]>(['student']);
	shows = $state<string[]>(['points', 'answers', 'comments']);
	later = $state(false);
	day = $state('');
	/** Answers go out although others are still to take the test. */
	despite = $state(false);
	asked = $state('');
	attempt = $state('');
	preview = $state.raw<Schemas['ReviewOut'] | null>(null);
	previewed = $state<'student' | 'family'>('student');
	problem = $state('');
	done = $state('');
	busy = $state(false);

	constructor(
		readonly form: string,
		readonly window: string
	) {}

	async load() {
		try {
			const page = await body(
				api.GET('/api/releases/forms/{form}', {
					params: { path: { form: this.form }, query: { window: this.window } }
				})
			);
			const first = !this.page;
			this.page = page;
			this.attempt ||= page.attempts[0]?.sitting ?? '';
			if (!first) return;
			this.sessions = page.sessions.filter((s) => s.closed).map((s) => s.session_id);
			if (!page.still_to_take) this.shows = ['points', 'answers', 'right', 'solutions', 'comments'];
		} catch (error) {
			this.problem = said(error);
		}
	}

	show(parts: string[]) {
		this.shows = parts.includes('answers') ? parts : parts.filter((part) => !BESIDE.includes(part));
		this.asked = '';
	}

	get ready(): boolean {
		return (
			!this.busy &&
			!!this.sessions.length &&
			!!this.audiences.length &&
			!!this.shows.length &&
			(!this.later || !!this.day)
		);
	}

	async release(despite = false) {
		this.busy = true;
		[this.problem, this.asked] = ['', ''];
		try {
			const day = this.later ? this.day : null;
			const made = await body(
				api.POST('/api/releases', {
					body: { sessions: this.sessions, audiences: this.audiences, shows: this.shows, day, despite }
				})
			);
			this.done = made.says;
			await this.load();
		} catch (error) {
			if (said(error).includes('still to take this test')) this.asked = said(error);
			else this.problem = said(error);
		}
		this.busy = false;
	}

	async withdraw(session: string, audience: string) {
		await this.#go(() => api.POST('/api/releases/withdraw', { body: { sessions: [session], audience } }));
	}

	/** why null: the result goes out as those of the class. */
	async hold(sitting: string, why: string | null) {
		await this.#go(() =>
			api.PUT('/api/releases/attempts/{sitting}/hold', { params: { path: { sitting } }, body: { why } })
		);
		if (this.attempt === sitting) this.attempt = this.page?.attempts[0]?.sitting ?? '';
	}

	async look(audience: 'student' | 'family') {
		try {
			this.preview = await body(
				api.GET('/api/releases/attempts/{sitting}/preview', {
					params: { path: { sitting: this.attempt }, query: { audience, shows: this.shows } }
				})
			);
			this.previewed = audience;
		} catch (error) {
			this.problem = said(error);
		}
	}

	async #go(what: () => Promise<unknown>) {
		try {
			await what();
			this.done = '';
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	}
}
