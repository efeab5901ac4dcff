import { api, body, Problem, tokens, type Schemas } from '$lib/api/client';
import { complete } from '$lib/sitting/question/answer';
import { AnswerQueue, SendFailure, type Message, type Receipt, type Status } from './queue';

/** From this many signs on an answer is being written at length, and is sent when the student pauses (milliseconds). */
const LONG = 60;
const PAUSE = 1200;
const PATIENCE = 20_000; // a message without an answer for so long is tried again
const DAY = 24 * 3_600_000;

/** A student's attempt on this device: what is shown, where the student is, and the answers on their way. */
export class Sitting {
	paper = $state<Schemas['PaperOut'] | null>(null);
	place = $state(0);
	later = $state<Record<string, boolean>>({});
	status = $state<Status>('saved');
	takenOver = $state(false);
	/** Staff gave this attempt another form. */
	changed = $state(false);
	refused = $state('');
	ended = $state('');
	/** Whether somebody else ended the attempt: the session was closed, or its time was over. */
	closed = $state(false);
	/** What the room says: paused, out of the room, help asked for, a message. */
	room = $state<Schemas['RoomStanding'] | null>(null);
	/** Answers that stay on this device because the server did not take them. */
	left = $state(0);
	/** By how many milliseconds the server's clock is ahead of this device's, which may be wrong. */
	ahead = $state(0);
	/** Whether this device can keep a copy of answers that are not saved yet. */
	kept = $state(true);
	told = $state<Record<string, Schemas['Told']>>({});
	review = $state<Schemas['ReviewOut'] | null>(null);

	#queue: AnswerQueue | null = null;
	#reached = 0;
	#spent: Record<string, number> = {}; // milliseconds that each question was before the student on this device
	#since = 0; // since when the present one is; 0 while the page is hidden
	#told: Record<string, number> = {}; // what the server knows of it

	get #key() {
		return `bildung.sitting.${this.paper?.sitting}`;
	}

	get question() {
		return this.paper?.questions[this.place] ?? null;
	}

	get unanswered() {
		return (this.paper?.questions ?? []).filter((q) => !complete(q.shown, q.answer));
	}

	/** The first place that may still be shown: behind it nothing is gone back to, where the test runs one way. */
	get first() {
		return this.paper?.one_way ? Math.max(this.paper.reached, this.#reached) : 0;
	}

	async load() {
		this.paper = await body(api.GET('/api/sit/paper'));
		tokens.sitting = this.paper.csrf;
		this.ahead = Date.parse(this.paper.now) - Date.now();
		this.room = this.paper.room;
		this.#queue?.stop();
		this.#queue = new AnswerQueue(
			this.#key,
			this.paper.takeover,
			this.paper.sequence,
			localStorage,
			(batch) => this.#send(batch),
			{
				status: (status) => (this.status = status),
				receipt: (receipt) => this.#heard(receipt.state, receipt.takeover),
				refused: (message) => (this.refused = message.why),
				signedOut: () => (this.ended = 'signed_out'),
				kept: (yes) => (this.kept = yes)
			}
		);
		for (const message of this.#queue.pending) {
			const question = this.paper.questions.find((q) => q.id === message.question);
			if (question) question.answer = message.answer;
		}
		this.left = this.#queue.refused.length;
		this.takenOver = false;
		this.closed = false;
		this.refused = '';
		this.#reached = 0;
		this.ended = '';
		this.place = Math.max(this.paper.reached, Number(sessionStorage.getItem(`${this.#key}.place`) ?? 0));
		this.place = Math.min(this.place, Math.max(0, this.paper.questions.length - 1));
		this.later = JSON.parse(sessionStorage.getItem(`${this.#key}.later`) ?? '{}');
		const kept = JSON.parse(sessionStorage.getItem(`${this.#key}.spent`) ?? '{}');
		this.#spent = kept.takeover === this.paper.takeover ? kept.spent : {};
		this.#told = {};
		this.#since = 0;
		this.count();
		if (this.#queue.pending.length) void this.flush();
	}

	/** Add the time since the last look to the question that is open; none passes while the page is hidden. */
	count() {
		const now = performance.now();
		const id = this.question?.id;
		if (this.#since && id) {
			this.#spent[id] = Math.round((this.#spent[id] ?? 0) + now - this.#since);
			sessionStorage.setItem(
				`${this.#key}.spent`,
				JSON.stringify({ takeover: this.paper?.takeover, spent: this.#spent })
			);
		}
		this.#since = document.hidden || this.paper?.state !== 'answering' || this.ended ? 0 : now;
	}

	/** Times that the server does not know yet. */
	#times() {
		this.count();
		return Object.entries(this.#spent)
			.map(([question, ms]) => ({ question, milliseconds: Math.min(ms, DAY) }))
			.filter((t) => this.#told[t.question] !== t.milliseconds);
	}

	go(place: number) {
		this.count();
		const last = (this.paper?.questions.length ?? 1) - 1;
		this.place = Math.max(this.first, Math.min(last, place));
		sessionStorage.setItem(`${this.#key}.place`, String(this.place));
		if (this.paper?.one_way && this.place > this.#reached) {
			this.#reached = this.place;
			void this.flush(true);
		}
	}

	comeBack(question: string) {
		this.later[question] = !this.later[question];
		sessionStorage.setItem(`${this.#key}.later`, JSON.stringify(this.later));
	}

	answer(question: Schemas['QuestionOut'], answer: string): void {
		if (!this.paper || this.takenOver || question.final || question.answer === answer) return;
		question.answer = answer;
		this.#queue?.put(question.id, answer);
		if (answer.length < LONG) void this.flush();
		else this.#queue?.later(PAUSE);
	}

	/** Send what waits; whatever the server did not acknowledge stays, and is tried again. */
	async flush(moved = false): Promise<boolean> {
		return (await this.#queue?.flush(moved)) ?? true;
	}

	async #send(answers: Message[]): Promise<Receipt> {
		const times = this.#times();
		try {
			const asked = { body: { answers, reached: this.#reached, times }, signal: AbortSignal.timeout(PATIENCE) };
			const receipt = await body(api.POST('/api/sit/answers', asked));
			for (const t of times) this.#told[t.question] = t.milliseconds;
			return { ...receipt, refused: receipt.refused.map((r) => ({ id: r.name, why: String(r.value) })) };
		} catch (error) {
			if (error instanceof Problem) throw new SendFailure(error.status, error.detail);
			throw error;
		}
	}

	/** What the server says of the attempt, with a receipt or asked by itself. */
	#heard(state: string, takeover: number) {
		if (state !== 'answering' && !this.ended) {
			this.closed = state === 'handed_in';
			this.ended = state;
		}
		if (this.paper && takeover > this.paper.takeover && !this.takenOver) {
			this.takenOver = true;
			void this.#whose();
		}
		this.left = this.#queue?.refused.length ?? 0;
	}

	/** Ask where the attempt stands: somebody closed the session, took the attempt over, or gave more time. */
	async ask() {
		if (!this.paper || this.takenOver || (this.ended && !this.closed)) return;
		if (!this.ended) await this.flush();
		try {
			const now = await body(api.GET('/api/sit/standing'));
			this.paper.end = now.end;
			this.changed = now.changed;
			this.room = now.room;
			this.ahead = Date.parse(now.now) - Date.now();
			if (now.state === 'answering' && this.ended)
				await this.load(); // it was opened again
			else this.#heard(now.state, now.takeover);
		} catch (error) {
			if (error instanceof Problem && error.status === 401) this.ended = 'signed_out';
		}
	}

	/** Whether another device has the attempt now, or staff gave it another form. */
	async #whose() {
		try {
			this.changed = (await body(api.GET('/api/sit/standing'))).changed;
		} catch {
			/* the page then says what is likelier */
		}
	}

	/** Hear of it at once; the browser connects again by itself. Returns how to stop. */
	listen(): () => void {
		const events = new EventSource('/api/sit/events');
		events.addEventListener('open', () => void this.ask()); // whatever moved while the line was down
		events.addEventListener('moved', () => void this.ask());
		return () => events.close();
	}

	/** Tell the room something; what it says then is asked for at once. */
	async sign(kind: Schemas['RoomSignIn']['kind'], more: { seconds?: number; message?: string } = {}) {
		await api.POST('/api/sit/sign', { body: { kind, seconds: 0, message: '', ...more } });
		if (kind !== 'here' && kind !== 'left') await this.ask();
	}

	/** What was right of one question, told at once; the answer stays from then on. */
	async check(question: Schemas['QuestionOut']) {
		if (!(await this.flush())) throw new Error('This answer is not saved yet. Try again in a moment.');
		this.told[question.id] = await body(api.POST('/api/sit/check', { body: { question: question.id } }));
		question.final = true;
	}

	async look() {
		this.review = await body(api.GET('/api/sit/review'));
	}

	/** Another attempt; the first one is what counts. */
	async again() {
		await api.POST('/api/sit/again');
		sessionStorage.removeItem(`${this.#key}.place`);
		sessionStorage.removeItem(`${this.#key}.later`);
		[this.told, this.review] = [{}, null];
		await this.load();
	}

	/** timeOver: the end of the session came; whoever may work on several days goes on on another one. */
	async handIn(timeOver = false) {
		if (!(await this.flush(true)))
			throw new Error('Some answers are not saved yet. Keep this page open and try again in a moment.');
		await api.POST('/api/sit/hand-in', { params: { query: { time_over: timeOver } } });
		try {
			await this.load(); // whether there is anything to look at, or another attempt
		} catch {
			/* it is handed in all the same */
		}
		this.ended = this.paper?.state === 'resting' ? 'resting' : 'handed_in';
	}

	async leave() {
		await api.POST('/api/sit/leave');
	}
}
