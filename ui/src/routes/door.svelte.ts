import { goto } from '$app/navigation';
import { Held } from '$lib/sitting/held';
import { Errands } from '$lib/sitting/errands.svelte';
import { shelf } from '$lib/sitting/shelf';
import { api, body, said, tokens, type Schemas } from '$lib/api/client';

/** The door: students to their test, staff to their stations. */
export class Door {
	constructor(query: URLSearchParams) {
		this.next = query.get('next') ?? '/start';
		this.sessionCode = query.get('session') ?? '';
		this.ownCode = query.get('own') ?? '';
		this.#straight = !!query.get('session') && !!query.get('own');
		this.staffProblem = this.SAID[query.get('said') ?? ''] ?? '';
	}
	/** Where staff go once they are in. */
	next = '/start';
	welcome = $state<Schemas['Welcome'] | null>(null);
	sessionCode = $state('');
	ownCode = $state('');
	username = $state('');
	password = $state('');
	studentProblem = $state('');
	/** What the way back from the sign-in provider may say; nothing else in the address is shown. */
	SAID: Record<string, string> = {
		late: 'Signing in took too long. Try again.',
		attempt: 'This sign-in belongs to another attempt. Try again.',
		unreachable: 'The sign-in provider cannot be reached. Try again, or sign in with a password.',
		untrusted: 'The sign-in provider did not answer as it should. Ask the coordinator.',
		unknown: 'Your school account works, but no one here is linked to it. Ask the coordinator.',
		waiting: 'Your school account has not been confirmed yet. Ask the coordinator.',
		failed: 'Signing in did not work. Try again, or ask the coordinator.'
	};
	staffProblem = $state('');
	endOthers = $state(false);
	busy = $state(false);
	joining = $state(false);
	newcomer = $state({ code: '', given: '', family: '' });
	waiting = $state<Schemas['TicketStateOut'] | null>(null);
	timer: ReturnType<typeof setInterval> | undefined;

	/** Ask a class to be let in; the ticket waits in this browser until the teacher has decided. */
	ask = async (event: SubmitEvent) => {
		event.preventDefault();
		this.studentProblem = '';
		try {
			const made = await body(api.POST('/api/join', { body: this.newcomer }));
			localStorage.setItem('bildung.ticket', made.ticket);
			this.joining = false;
			await this.wait();
		} catch (error) {
			this.studentProblem = said(error).replace('Not accepted: ', '');
		}
	};

	wait = async () => {
		const ticket = localStorage.getItem('bildung.ticket');
		if (!ticket) return;
		try {
			this.waiting = await body(api.POST('/api/join/state', { body: { ticket } }));
			if (this.waiting.state !== 'waiting') clearInterval(this.timer);
		} catch {
			localStorage.removeItem('bildung.ticket');
			this.waiting = null;
		}
	};

	forget = () => {
		localStorage.removeItem('bildung.ticket');
		this.waiting = null;
	};

	/** What lies here of students who left while there was no network. */
	errands = new Errands(true);

	/** The link or square of a ticket has both codes: what is left is the question whose they are. */
	#straight = false;
	straightIn() {
		if (!this.#straight) return;
		this.#straight = false; // once, and never by what is typed
		void this.look();
	}

	follow = () => {
		this.straightIn();
		const stop = this.errands.start();
		void this.wait();
		this.timer = setInterval(() => this.waiting?.state === 'waiting' && void this.wait(), 8000);
		return () => {
			clearInterval(this.timer);
			stop();
		};
	};

	load = async () => {
		try {
			this.welcome = await body(api.GET('/api/welcome'));
		} catch (error) {
			this.staffProblem = said(error);
		}
	};
	who = $state<Schemas['WhoseCodes'] | null>(null);
	/** The practice question is open. */
	practicing = $state(false);
	/** The student takes the test somewhere else than at school. */
	atHome = $state(false);
	asking = $state<HTMLElement>();

	look = async (event?: SubmitEvent) => {
		event?.preventDefault();
		this.busy = true;
		this.studentProblem = '';
		try {
			this.who = await body(
				api.POST('/api/sit/who', {
					body: { session_code: this.sessionCode, own_code: this.ownCode, at_home: false }
				})
			);
			requestAnimationFrame(() => this.asking?.focus());
		} catch (error) {
			this.studentProblem = said(error).replace('Not accepted: ', '');
		}
		this.busy = false;
	};

	notMe = () => {
		[this.who, this.ownCode] = [null, ''];
		requestAnimationFrame(() => document.getElementById('own-code')?.focus());
	};

	join = async () => {
		this.busy = true;
		this.studentProblem = '';
		try {
			const token = await body(
				api.POST('/api/sit/join', {
					body: { session_code: this.sessionCode, own_code: this.ownCode, at_home: this.atHome }
				})
			);
			if (token.kind === 'sitting') {
				tokens.sitting = token.csrf;
				Held.setLeaving(await shelf(), null); // a new sign-in took the place of the one that was left
			}
			await goto(token.kind === 'sitting' ? '/sit' : '/own');
		} catch (error) {
			this.studentProblem = said(error).replace('Not accepted: ', '');
			this.who = null;
		}
		this.busy = false;
	};

	/** A substitute, with the code of one session. */
	substituting = $state(false);
	substitute = $state({ code: '', name: '' });

	enter = async (event: SubmitEvent) => {
		event.preventDefault();
		this.busy = true;
		this.staffProblem = '';
		try {
			const { session } = await body(api.POST('/api/substitute', { body: this.substitute }));
			await goto(`/sessions/${session}`);
		} catch (error) {
			this.staffProblem = said(error).replace('Not accepted: ', '');
		}
		this.busy = false;
	};

	signIn = async (event: SubmitEvent) => {
		event.preventDefault();
		this.busy = true;
		this.staffProblem = '';
		try {
			const token = await body(
				api.POST('/api/signin', {
					body: { username: this.username, password: this.password, end_others: this.endOthers }
				})
			);
			await goto(token.kind === 'family' ? '/family' : this.next);
		} catch (error) {
			this.staffProblem = said(error).replace('Not accepted: ', '');
		}
		this.busy = false;
	};
}
