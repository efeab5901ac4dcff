import { api, body, said, type Schemas } from '$lib/api/client';
import { questions } from '$lib/design/questions.svelte';
import { toasts } from '$lib/design/toasts.svelte';
import type { SessionPage } from './session.svelte';

type Kind = Schemas['RoomActionIn']['kind'];
type Line = Schemas['SittingLine'];

/** What whoever holds the session does for one, several or all students while it runs. */
export class Room {
	chosen = $state<Record<string, boolean>>({});
	minutes = $state('5');
	giving = $state(false);
	noting = $state(false);
	writing = $state(false);
	text = $state('');
	busy = $state(false);

	constructor(readonly page: SessionPage) {}

	get open(): boolean {
		return !!this.page.data?.may_hold && this.page.s?.phase === 'open';
	}

	get working(): Line[] {
		return this.page.data?.sittings.filter((s) => s.state === 'answering') ?? [];
	}

	get selected(): Line[] {
		return this.page.data?.sittings.filter((s) => this.chosen[s.id]) ?? [];
	}

	/** Who is at work among those chosen; everyone at work where none is. */
	get whom(): Line[] {
		return this.selected.length ? this.selected.filter((s) => s.state === 'answering') : this.working;
	}

	get words(): string {
		const count = this.selected.length;
		if (!count) return 'Everyone who is taking the test';
		return count === 1 ? (this.selected[0]?.name ?? '') : `${count} students`;
	}

	/** Who asks for something, the longest wait first as the list has them. */
	get needing(): Line[] {
		return this.page.data?.sittings.filter((s) => s.room.needs_you) ?? [];
	}

	async do(
		kind: Kind,
		lines: readonly Line[] | null,
		more: { minutes?: number; text?: string } = {}
	): Promise<boolean> {
		this.busy = true;
		try {
			await body(
				api.POST('/api/sessions/{session_id}/room', {
					params: { path: { session_id: this.page.id } },
					body: { kind, sittings: lines?.map((s) => s.id) ?? [], minutes: 0, text: '', ...more }
				})
			);
			await this.page.load();
			return true;
		} catch (error) {
			this.page.problem = said(error);
			return false;
		} finally {
			this.busy = false;
		}
	}

	/** Of those chosen, or of all. */
	all(kind: Kind, more: { minutes?: number; text?: string } = {}) {
		return this.do(kind, this.selected.length ? this.whom : null, more);
	}

	pause = async () => {
		const why = await questions.ask({
			title: this.selected.length ? `Pause ${this.words}?` : 'Pause the session?',
			says: 'Screens are covered and the clock stands still.',
			yes: 'Pause',
			reason: 'What students read meanwhile',
			optional: true,
			safe: true
		});
		if (why !== null) await this.all('pause', { text: why });
	};

	resume = () => this.all('resume');

	give = async (event: SubmitEvent) => {
		event.preventDefault();
		const minutes = Number(this.minutes);
		const lines = this.selected.length ? this.whom : null;
		if (!(await this.do('minutes', lines, { minutes }))) return;
		this.giving = false;
		toasts.say(`${minutes} minutes added.`, async () => {
			await this.do('minutes', lines, { minutes: -minutes });
		});
	};

	send = async (event: SubmitEvent) => {
		event.preventDefault();
		if (await this.all('message', { text: this.text })) [this.writing, this.text] = [false, ''];
	};

	note = async (event: SubmitEvent) => {
		event.preventDefault();
		if (await this.do('irregularity', this.selected, { text: this.text })) {
			[this.noting, this.text, this.chosen] = [false, '', {}];
			toasts.say('Noted. The coordinator decides what it means.');
		}
	};

	/** The devices they have let go; they enter their codes on others. */
	move = async () => {
		const lines = this.whom;
		if (await this.do('move', lines))
			toasts.say('They can enter their codes on another device. What was unsent still arrives.');
	};

	onPaper = async () => {
		for (const line of this.whom) await this.page.mark(line, 'on_paper');
		this.chosen = {};
	};

	afterward = async () => {
		const text = await questions.ask({
			title: 'What do finished students do?',
			says: 'They read it on their last page.',
			yes: 'Save',
			reason: `Up to 200 characters${this.page.data?.afterward ? `; now: ${this.page.data.afterward}` : ''}`,
			optional: true,
			safe: true
		});
		if (text !== null && (await this.do('afterward', null, { text }))) toasts.say('Saved.');
	};

	stopSchool = async () => {
		const school = this.page.s?.school ?? '';
		const why = await questions.ask({
			title: `Pause every open session at ${school}?`,
			says: 'Screens are covered everywhere and no minute is lost. Sessions go on one by one, or all at once.',
			yes: 'Pause all',
			reason: 'Reason, shown to students'
		});
		if (why) await this.school(why, false);
	};

	async school(why: string, resume: boolean) {
		const id = this.page.data?.school_id ?? '';
		try {
			const done = await body(
				api.POST('/api/schools/{school}/stop', { params: { path: { school: id } }, body: { why, resume } })
			);
			const sessions = `${done.sessions} ${done.sessions === 1 ? 'session' : 'sessions'}`;
			toasts.say(`${sessions} with ${done.students} students ${resume ? 'resumed' : 'paused'}.`);
			await this.page.load();
		} catch (error) {
			this.page.problem = said(error);
		}
	}
}
