import { api, body, Problem, tokens, type Schemas } from '$lib/api/client';
import { complete } from '$lib/sitting/question/answer';
import { Held, type SubmittedHere } from './held';
import { forgetPictures, keepPages } from './pages';
import { AnswerQueue, SendFailure, type Beside, type Message, type Receipt, type Status } from './queue';
import { shelf } from './shelf';

/** From this many signs on an answer is being written at length, and is sent when the student pauses (milliseconds). */
const LONG = 60;
const PAUSE = 1200;
/** The section that was come to on this device. since: when, by the server's clock; end: by its own minutes; told: the server knows. */
type SectionHere = { reached: number; since: number; end: string | null; told: boolean };
const PATIENCE = 20_000; // a message without an answer for so long is tried again
const DAY = 24 * 3_600_000;
const MOST_VISITS = 200; // of one message
const MANY_VISITS = 20;
const VISITS_EVERY = 60_000;
const CUT = 20; // seconds without a server that are worth telling the room

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
	/** The server cannot be reached: this is what lies on the device. */
	away = $state(false);
	/** The attempt was submitted here without a network and goes on, since there was time left. */
	goesOn = $state(false);
	/** By how many milliseconds the server's clock is ahead of this device's, which may be wrong. */
	ahead = $state(0);
	/** Whether this device can keep a copy of answers that are not saved yet. */
	kept = $state(true);
	told = $state<Record<string, Schemas['Told']>>({});
	review = $state<Schemas['ReviewOut'] | null>(null);

	#queue: AnswerQueue | null = null;
	#reached = $state(0);
	#spent: Record<string, number> = {}; // milliseconds that each question was before the student on this device
	#since = 0; // since when the present one is; 0 while the page is hidden
	#told: Record<string, number> = {}; // what the server knows of it
	#held: Held | null = null;
	#visits: Schemas['VisitIn'][] = []; // since the last message that arrived
	#visit = { question: '', begin: 0 };
	#given: Record<string, string> = {}; // answers since the paper came, so that the kept one can be shown with them
	#cutSince = 0;

	/** Once what a reload without a server needs lies on the device, or cannot. */
	pages: Promise<void> = Promise.resolve();

	/** The server's time, as far as this device knows it. */
	get now(): Date {
		return new Date(Date.now() + this.ahead);
	}

	get question() {
		return this.paper?.questions[this.place] ?? null;
	}

	get unanswered() {
		return (this.paper?.questions ?? []).filter((q) => !complete(q.shown, q.answer));
	}

	/** The first place that may still be shown: behind it nothing is gone back to, where the test or its sections run one way. */
	get first() {
		const reached = Math.max(this.paper?.reached ?? 0, this.#reached);
		return this.paper?.one_way ? reached : this.bounds.from;
	}

	/** The first and the last place of the section that is open; of the whole test where sections do not end by themselves. */
	get bounds() {
		const questions = this.paper?.questions ?? [];
		const last = questions.length - 1;
		if (!this.paper?.timed) return { from: 0, to: last };
		const part = questions[Math.min(last, Math.max(this.paper.reached, this.#reached))]?.part;
		return { from: questions.findIndex((q) => q.part === part), to: questions.findLastIndex((q) => q.part === part) };
	}

	/** Whether no section follows. */
	get inLast(): boolean {
		return this.bounds.to === (this.paper?.questions.length ?? 0) - 1;
	}

	/** Go on to the next section, whose own minutes begin now; this one is not gone back to. */
	nextSection(): void {
		if (!this.paper || this.inLast) return;
		const place = this.bounds.to + 1;
		const seconds = this.paper.parts[this.paper.questions[place]?.part ?? 0]?.seconds ?? null;
		const since = this.now.getTime();
		const end = seconds === null ? null : new Date(since + 1000 * seconds).toISOString();
		[this.#reached, this.#section] = [place, { reached: place, since, end, told: false }];
		this.paper.section_end = end;
		this.keep('section', this.#section);
		this.go(place);
		void this.flush(true);
	}
	#section: SectionHere = { reached: 0, since: 0, end: null, told: true };

	/** Of the server, or where it cannot be reached of the device. */
	async #fetch(): Promise<Schemas['PaperOut']> {
		const place = await shelf();
		const present = Held.present(place);
		const kept = present === null ? null : new Held(place, present);
		try {
			if (Held.leaving(place) !== null) throw new Problem(401, '', '', null); // they are gone; the server is told at the door
			const paper = await body(api.GET('/api/sit/paper'));
			this.ahead = Date.parse(paper.now) - Date.now();
			this.away = false;
			return paper;
		} catch (error) {
			const paper = kept?.paper;
			if ((error instanceof Problem && error.status < 500) || !kept || !paper) throw error;
			this.ahead = kept.read<number>('ahead') ?? 0;
			this.away = true;
			const given = kept.read<Record<string, string>>('given') ?? {};
			for (const question of paper.questions)
				for (const what of ['answer', 'notes', 'sketch'] as const)
					question[what] = given[what === 'answer' ? question.id : `${question.id} ${what}`] ?? question[what];
			return paper;
		}
	}

	/** What stays on the device until the student is done. */
	#keep(paper: Schemas['PaperOut']) {
		const held = this.#held!;
		held.put('errand', { delivery: paper.delivery, takeover: paper.takeover, reached: paper.reached });
		if (this.away) {
			this.#given = held.read('given') ?? {};
			return;
		}
		held.arrive();
		held.put('ahead', this.ahead);
		this.#given = {};
		held.drop('given');
		if (paper.state === 'answering') {
			held.put('paper', paper);
			this.pages = keepPages(pictures(paper));
		} else {
			held.drop('paper');
			void forgetPictures();
		}
	}

	/** Something of this attempt that is to be there after a reload. */
	keep(name: string, value: unknown): void {
		this.#held?.put(name, value);
	}

	recall<T>(name: string): T | null {
		return this.#held?.read<T>(name) ?? null;
	}

	async load() {
		this.paper = await this.#fetch();
		this.#held = new Held(await shelf(), this.paper.sitting);
		this.#keep(this.paper);
		tokens.sitting = this.paper.csrf;
		this.room = this.paper.room;
		this.#queue?.stop();
		const told = this.recall<{ takeover: number; sequence: number }>('sequence');
		this.#queue = new AnswerQueue(
			this.#held.key,
			this.paper.takeover,
			// a paper from the device is older than what was sent since
			Math.max(this.paper.sequence, told?.takeover === this.paper.takeover ? told.sequence : 0),
			this.#held.shelf,
			(batch) => this.#send(batch),
			{
				status: (status) => this.#stands(status),
				receipt: (receipt) => this.#heard(receipt.state, receipt.takeover),
				refused: (message) => (this.refused = message.why),
				signedOut: () => {
					this.ended = 'signed_out';
					this.#held?.part();
				},
				kept: (yes) => (this.kept = yes)
			}
		);
		for (const message of this.#queue.pending) {
			const question = this.paper.questions.find((q) => q.id === message.question);
			if (question) question[message.about ?? 'answer'] = message.answer;
		}
		this.left = this.#queue.refused.length;
		this.takenOver = false;
		this.closed = false;
		this.refused = '';
		this.#reached = 0;
		this.#section = { reached: 0, since: 0, end: null, told: true };
		const section = this.recall<SectionHere>('section');
		if (this.paper.timed && section && section.reached > this.paper.reached) {
			this.#section = section; // the server was not told of it yet
			[this.#reached, this.paper.section_end] = [section.reached, section.end];
		}
		this.ended = this.#held.submitted && this.paper.state === 'answering' ? 'kept_here' : '';
		this.place = Math.max(this.paper.reached, this.recall<number>('place') ?? 0);
		this.place = Math.max(this.first, Math.min(this.place, Math.max(0, this.bounds.to)));
		this.later = this.recall('later') ?? {};
		const kept = this.recall<{ takeover: number; spent: Record<string, number> }>('spent');
		this.#spent = kept?.takeover === this.paper.takeover ? kept.spent : {};
		this.#told = {};
		this.#since = 0;
		[this.#visits, this.#visit, this.#began] = [[], { question: '', begin: 0 }, performance.now()];
		[this.#visitsTold, this.#closing] = [performance.now(), false];
		this.count();
		if (this.ended === 'kept_here') void this.settle();
		else if (this.#queue.pending.length) void this.flush();
	}

	/** Whether answers reach the server; how long they did not is told to the room once they do again. */
	#stands(status: Status) {
		this.status = status;
		if (status === 'waiting') this.#cutSince ||= Date.now();
		else if (status === 'saved' && this.#cutSince) {
			const seconds = Math.round((Date.now() - this.#cutSince) / 1000);
			this.#cutSince = 0;
			if (seconds >= CUT && !this.ended) void this.sign('offline', { seconds }).catch(() => {});
		}
	}

	/** Add the time since the last look to the question that is open; none passes while the page is hidden. */
	count() {
		const now = performance.now();
		const id = this.question?.id;
		if (this.#since && id) {
			this.#spent[id] = Math.round((this.#spent[id] ?? 0) + now - this.#since);
			this.keep('spent', { takeover: this.paper?.takeover, spent: this.#spent });
		}
		this.#visited(now);
		this.#since = document.hidden || this.paper?.state !== 'answering' || this.ended ? 0 : now;
	}

	/** One visit ends where another begins, or nothing is looked at. */
	#visited(now: number) {
		const visible = !document.hidden && this.paper?.state === 'answering' && !this.ended;
		const open = this.question?.id ?? '';
		const { question, begin } = this.#visit;
		if (question && (question !== open || !visible)) {
			const seconds = Math.round((begin - this.#began) / 1000);
			this.#visits.push({ question, begin: seconds, tenths: Math.round((now - begin) / 100) });
			this.#visit = { question: '', begin: 0 };
		}
		if (visible && open && this.#visit.question !== open) this.#visit = { question: open, begin: now };
	}
	#began = performance.now();
	#visitsTold = performance.now();
	#closing = false;

	/** Visits go with an answer once a minute, when there are many, and at the end: saving costs no more for them. */
	#visitsDue(): boolean {
		return this.#closing || this.#visits.length >= MANY_VISITS || performance.now() - this.#visitsTold > VISITS_EVERY;
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
		this.place = Math.max(this.first, Math.min(Math.max(0, this.bounds.to), place));
		this.#visited(performance.now());
		this.keep('place', this.place);
		if (this.paper?.one_way && this.place > this.#reached) {
			this.#reached = this.place;
			void this.flush(true);
		}
	}

	comeBack(question: string) {
		this.later[question] = !this.later[question];
		this.keep('later', this.later);
	}

	/** The place in the order outlives the page, also of what the server has already. */
	#put(question: string, text: string, about?: Beside): void {
		this.#queue?.put(question, text, about);
		this.keep('sequence', { takeover: this.paper?.takeover, sequence: this.#queue?.sequence });
	}

	answer(question: Schemas['QuestionOut'], answer: string): void {
		if (!this.paper || this.takenOver || question.final || question.answer === answer) return;
		question.answer = this.#given[question.id] = answer;
		this.keep('given', this.#given);
		this.#put(question.id, answer);
		if (answer.length < LONG) void this.flush();
		else this.#queue?.later(PAUSE);
	}

	/** Notes or a sketch beside an answer; sent when the student pauses. */
	beside(question: Schemas['QuestionOut'], about: Beside, text: string): void {
		if (!this.paper || this.takenOver || question[about] === text) return;
		question[about] = this.#given[`${question.id} ${about}`] = text;
		this.keep('given', this.#given);
		this.#put(question.id, text, about);
		this.#queue?.later(PAUSE);
	}

	/** Send what waits; whatever the server did not acknowledge stays, and is tried again. */
	async flush(moved = false): Promise<boolean> {
		return (await this.#queue?.flush(moved)) ?? true;
	}

	async #send(answers: Message[]): Promise<Receipt> {
		const times = this.#times();
		try {
			const visits = this.#visitsDue() ? this.#visits.slice(0, MOST_VISITS) : [];
			const asked = {
				body: { answers: answers.map(whole), ...this.#come(answers.length), times, visits },
				signal: AbortSignal.timeout(PATIENCE)
			};
			const receipt = await body(api.POST('/api/sit/answers', asked));
			this.#visits.splice(0, visits.length);
			if (visits.length) this.#visitsTold = performance.now();
			if (asked.body.reached === this.#section.reached) this.#section.told = true;
			for (const t of times) this.#told[t.question] = t.milliseconds;
			this.away = false;
			return { ...receipt, refused: receipt.refused.map((r) => ({ id: r.name, why: String(r.value) })) };
		} catch (error) {
			if (error instanceof Problem) throw new SendFailure(error.status, error.detail);
			throw error;
		}
	}

	/** How far the student has come; what was given before that goes first. */
	#come(sending: number) {
		if (sending < (this.#queue?.pending.length ?? 0)) return { reached: this.paper?.reached ?? 0, section_ago: 0 };
		const { reached, since } = this.#section;
		const ago = reached && reached === this.bounds.from ? (this.now.getTime() - since) / 1000 : 0;
		return { reached: this.#reached, section_ago: Math.max(0, ago) };
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
		if (this.ended === 'kept_here') return void (await this.settle());
		if (!this.paper || this.takenOver || (this.ended && !this.closed)) return;
		if (!this.ended) await this.flush(!this.#section.told);
		try {
			const now = await body(api.GET('/api/sit/standing'));
			this.paper.end = now.end;
			if (this.#section.told) this.paper.section_end = now.section_end; // before, it means the section before
			this.changed = now.changed;
			this.room = now.room;
			this.ahead = Date.parse(now.now) - Date.now();
			if (now.state === 'answering' && this.ended)
				await this.load(); // it was opened again
			else this.#heard(now.state, now.takeover);
		} catch (error) {
			if (error instanceof Problem && error.status === 401) {
				this.ended = 'signed_out';
				this.#held?.part();
			}
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
	async sign(
		kind: Schemas['RoomSignIn']['kind'],
		more: { seconds?: number; message?: string; device?: Schemas['DeviceCheck'] } = {}
	) {
		await api.POST('/api/sit/sign', { body: { kind, seconds: 0, message: '', ...more } });
		if (!['here', 'left', 'offline', 'checked'].includes(kind)) await this.ask();
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
		this.#held?.drop('place');
		this.#held?.drop('later');
		this.#held?.drop('section');
		[this.told, this.review] = [{}, null];
		await this.load();
	}

	/**
	 * timeOver: the end of the session came; whoever may work on several days goes on on another one. Without a server it is
	 * submitted here, and there once it can be reached.
	 */
	async handIn(timeOver = false) {
		const at = this.now.toISOString();
		this.goesOn = false;
		this.#closing = true;
		this.count();
		if (await this.flush(true)) {
			try {
				return await this.#submit({ time_over: timeOver });
			} catch (error) {
				if (error instanceof Problem && error.status < 500) throw error;
			}
		}
		if (this.ended) return; // signed out, or closed meanwhile
		this.#held?.put('submitted', { at, timeOver } satisfies SubmittedHere);
		this.ended = 'kept_here';
	}

	/** Tell the server what was submitted here; nothing where it cannot be reached yet. */
	async settle() {
		const submitted = this.#held?.submitted;
		if (!submitted || this.ended !== 'kept_here' || this.#settling) return;
		this.#settling = true;
		try {
			if (!(await this.flush(true))) return;
			await this.#submit({ time_over: submitted.timeOver, at: submitted.at });
		} catch (error) {
			if (!(error instanceof Problem) || error.status >= 500) return;
			this.#held?.drop('submitted'); // it is submitted or closed already
			await this.load();
		} finally {
			this.#settling = false;
		}
	}
	#settling = false;

	async #submit(how: { time_over: boolean; at?: string }) {
		const { state } = await body(api.POST('/api/sit/hand-in', { body: how }));
		this.#held?.drop('submitted');
		try {
			await this.load(); // whether there is anything to look at, or another attempt
		} catch {
			/* it is handed in all the same */
		}
		this.goesOn = state === 'answering';
		this.ended = this.goesOn ? '' : state;
	}

	/** Whoever comes next sees nothing of it; what the server lacks stays and is brought by itself. */
	async leave() {
		this.#queue?.stop();
		const csrf = this.paper?.csrf ?? '';
		this.#held?.leave();
		void forgetPictures();
		try {
			await api.POST('/api/sit/leave');
		} catch (error) {
			if (!(error instanceof Problem)) Held.setLeaving(await shelf(), csrf);
			throw error;
		} finally {
			await (await shelf()).settled();
		}
	}
}

/** As it is sent: an answer says that it is one. */
function whole(message: Message) {
	return { about: 'answer', ...message };
}

/** Addresses of the pictures that a test shows. */
function pictures(paper: Schemas['PaperOut']): string[] {
	const found = JSON.stringify(paper.questions).matchAll(/\/api\/media\/[0-9a-f]{24}/g);
	return [...new Set([...found].map((m) => m[0]))];
}
