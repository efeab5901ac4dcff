import { api, body, said, type Schemas } from '$lib/api/client';
import { questions } from '$lib/design/questions.svelte';
import { toasts } from '$lib/design/toasts.svelte';
import { staff } from '$lib/state/staff.svelte';

/** One session while it is ahead, runs and is over. */
export class SessionPage {
	constructor(readonly id: string) {}
	data = $state<Schemas['SessionDetail'] | null>(null);
	problem = $state('');
	/** Milliseconds between looks while students work: who is stuck or silent changes without anything happening. */
	static readonly LOOK = 30_000;
	live = $state(false);
	told = $state('');
	/** Whose form is being settled. */
	forming = $state<Schemas['SittingLine'] | null>(null);
	asked = 0;
	local = /^(localhost|127\.|\[?::1)/.test(location.hostname);
	zone = $derived(staff.calendar?.zone ?? staff.me?.zone ?? 'UTC');
	s = $derived(this.data?.session);
	/** Moves with who is on the list, what they need and which form they take; not with every answer. */
	listed = $derived(this.data?.sittings.map((s) => `${s.id} ${s.form_id} ${s.needs}`).join('; ') ?? '');
	needing = $derived(this.data?.sittings.some((x) => x.needs) ?? false);

	load = async () => {
		try {
			const mine = ++this.asked;
			const answer = await body(api.GET('/api/sessions/{session_id}', { params: { path: { session_id: this.id } } }));
			if (mine === this.asked) this.data = answer;
		} catch (error) {
			this.problem = said(error);
		}
	};

	follow = () => {
		const events = new EventSource(`/api/sessions/${this.id}/events`);
		events.addEventListener('open', () => {
			this.live = true;
			void this.load(); // whatever moved while the line was down
		});
		events.addEventListener('moved', () => void this.load());
		events.addEventListener('end', () => {
			events.close();
			this.live = false;
		});
		events.onerror = () => (this.live = false);
		const look = setInterval(() => {
			if (this.s?.phase === 'open' && !document.hidden) void this.load();
		}, SessionPage.LOOK);
		return () => {
			clearInterval(look);
			events.close();
		};
	};

	#finished(sitting: Schemas['SittingLine']): number {
		return Number(this.s?.phase === 'open' && sitting.state === 'handed_in');
	}

	/** As they are listed; while the session is open those who are finished last. */
	order = $derived(
		(this.data?.sittings ?? [])
			.map((sitting, at) => ({ id: sitting.id, sitting, at }))
			.sort((a, b) => this.#finished(a.sitting) - this.#finished(b.sitting))
	);

	mark = async (
		sitting: Schemas['SittingLine'],
		state: 'absent' | 'on_paper' | 'exempt' | 'void' | 'interrupted' | 'back'
	) => {
		let why = '';
		if (state === 'void' || state === 'exempt' || state === 'interrupted') {
			const given = await questions.ask({
				...{
					void: {
						title: `Invalidate ${sitting.name}'s attempt?`,
						says: 'The attempt stays on record and counts in no result. You can undo this.',
						yes: 'Invalidate'
					},
					interrupted: {
						title: `Was ${sitting.name}'s attempt interrupted?`,
						says: 'The answers stay on record and count in no result. The student takes the test again. You can undo this.',
						yes: 'Mark interrupted'
					},
					exempt: {
						title: `Exempt ${sitting.name} from this session?`,
						says: 'No makeup will be due. You can undo this.',
						yes: 'Exempt'
					}
				}[state],
				reason: 'Reason (kept in the log)',
				optional: true
			});
			if (given === null) return;
			why = given;
		}
		try {
			await api.POST('/api/sessions/{session_id}/sittings/{sitting_id}', {
				params: { path: { session_id: this.id, sitting_id: sitting.id } },
				body: { state, why }
			});
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	makeSubstitute = () => this.#substitute('POST');
	withdrawSubstitute = () => this.#substitute('DELETE');

	async #substitute(how: 'POST' | 'DELETE') {
		const given = { params: { path: { session_id: this.id } } };
		try {
			if (how === 'POST') await api.POST('/api/sessions/{session_id}/substitute', given);
			else await api.DELETE('/api/sessions/{session_id}/substitute', given);
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	}

	moving = $state<Schemas['SittingLine'] | null>(null);
	target = $state('');
	movable = $derived((this.data?.may_plan ?? false) && this.s?.phase !== 'closed' && this.s?.phase !== 'canceled');

	/** Students take the test in the session `to`, this one or another. */
	place = async (people: string[], to: string): Promise<boolean> => {
		try {
			await api.POST('/api/sessions/{session_id}/students', {
				params: { path: { session_id: to } },
				body: { people, why: '' }
			});
			await this.load();
			return true;
		} catch (error) {
			this.problem = said(error);
			return false;
		}
	};

	move = async () => {
		if (this.moving && this.target && (await this.place([this.moving.person], this.target)))
			toasts.say(`${this.moving.name} was moved.`);
		[this.moving, this.target] = [null, ''];
	};

	unplace = async (person: string) => {
		try {
			await api.DELETE('/api/sessions/{session_id}/students/{person_id}', {
				params: { path: { session_id: this.id, person_id: person } }
			});
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	report = async () => {
		const text = await questions.ask({
			title: 'What is wrong with this roster?',
			says: 'The coordinator sees your report in the roster check, with your name.',
			yes: 'Send',
			reason: 'What should be corrected',
			safe: true
		});
		if (!text) return;
		try {
			await api.POST('/api/sessions/{session_id}/report', {
				params: { path: { session_id: this.id } },
				body: { text }
			});
			this.told = 'Passed on to the coordinator.';
		} catch (error) {
			this.problem = said(error);
		}
	};

	release = async () => {
		const despite = (this.data?.still_to_come.length ?? 0) > 0;
		try {
			await api.POST('/api/sessions/{session_id}/release', {
				params: { path: { session_id: this.id } },
				body: { despite }
			});
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};
	again = $state<{ until: string; why: string } | null>(null);
	lateBy = $derived.by(() => {
		const by = new Map<string, { sitting: string; name: string; answers: Schemas['LateAnswer'][] }>();
		for (const a of this.data?.late ?? [])
			by.set(a.sitting, { sitting: a.sitting, name: a.name, answers: [...(by.get(a.sitting)?.answers ?? []), a] });
		return [...by.values()];
	});

	reopen = async (event: SubmitEvent) => {
		event.preventDefault();
		if (!this.again) return;
		try {
			await api.POST('/api/sessions/{session_id}/open', {
				params: { path: { session_id: this.id } },
				body: { until: `${staff.calendar?.today}T${this.again.until}:00`, why: this.again.why }
			});
			this.again = null;
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	late = async (sitting_id: string, take: boolean, why: string) => {
		try {
			await api.POST('/api/sessions/{session_id}/late/{sitting_id}', {
				params: { path: { session_id: this.id, sitting_id } },
				body: { take, why }
			});
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	/** Asked before the session is closed: what becomes of attempts in progress. */
	closing = $state(false);
	unfinished = $state<'submit' | 'continue'>('submit');

	close = async (event: SubmitEvent) => {
		event.preventDefault();
		try {
			await api.POST('/api/sessions/{session_id}/close', {
				params: { path: { session_id: this.id }, query: { unfinished: this.unfinished } }
			});
			this.closing = false;
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	reopenAttempt = async (sitting: Schemas['SittingLine']) => {
		const closed = this.s?.phase === 'closed';
		const why = await questions.ask({
			title: `Reopen ${sitting.name}'s attempt?`,
			says: closed
				? 'The session is closed: the attempt is to be continued in another session, with the time it had left.'
				: 'The student goes on with the time that was left.',
			yes: 'Reopen',
			reason: 'Reason (kept in the log)',
			safe: true
		});
		if (!why) return;
		try {
			await api.POST('/api/sessions/{session_id}/sittings/{sitting_id}/reopen', {
				params: { path: { session_id: this.id, sitting_id: sitting.id } },
				body: { why }
			});
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};
}
