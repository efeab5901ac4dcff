import { api, body, Problem, tokens, type Schemas } from '$lib/api/client';
import { complete } from '$lib/question/answer';

type Message = Schemas['AnswerIn'];
/** From this many signs on an answer is being written at length, and is sent when the student pauses (milliseconds). */
const LONG = 60;
const PAUSE = 1200;
export type Status = 'saved' | 'saving' | 'waiting';

/** An id of our own; works without a secure address, where randomUUID does not exist. */
function newId(): string {
	return [...crypto.getRandomValues(new Uint8Array(16))].map((b) => b.toString(16).padStart(2, '0')).join('');
}

/**
 * A student's sitting on this device. Every answer goes into a queue that outlives the page and
 * leaves it only when the server has said that it is on disk.
 */
export class Sitting {
	paper = $state<Schemas['PaperOut'] | null>(null);
	place = $state(0);
	later = $state<Record<string, boolean>>({});
	status = $state<Status>('saved');
	takenOver = $state(false);
	refused = $state('');
	ended = $state('');
	told = $state<Record<string, Schemas['ToldOut']>>({});
	review = $state<Schemas['ReviewOut'] | null>(null);

	#pending: Message[] = [];
	#sequence = 0;
	#reached = 0;
	#flying = new Set<string>();
	#sending = false;
	#wait = 0;
	#timer: ReturnType<typeof setTimeout> | undefined;
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
		this.#pending = JSON.parse(localStorage.getItem(this.#key) ?? '[]');
		for (const message of this.#pending) {
			const question = this.paper.questions.find((q) => q.id === message.question);
			if (question) question.answer = message.answer;
		}
		const mine = this.#pending.filter((m) => m.takeover === this.paper?.takeover).map((m) => m.sequence);
		this.#sequence = Math.max(this.paper.sequence, 0, ...mine);
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
		if (this.#pending.length) void this.flush();
	}

	/** Add the time since the last look to the question that is open; none passes while the page is hidden. */
	count() {
		const now = performance.now();
		const id = this.question?.id;
		if (this.#since && id) {
			this.#spent[id] = Math.round((this.#spent[id] ?? 0) + now - this.#since);
			sessionStorage.setItem(`${this.#key}.spent`, JSON.stringify({ takeover: this.paper?.takeover, spent: this.#spent }));
		}
		this.#since = document.hidden || this.paper?.state !== 'answering' || this.ended ? 0 : now;
	}

	/** Times that the server does not know yet. */
	#times() {
		this.count();
		return Object.entries(this.#spent).filter(([id, ms]) => this.#told[id] !== ms).map(([question, milliseconds]) => ({ question, milliseconds }));
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
		// what was typed since the last message and is not on its way yet goes as one message
		const waiting = this.#pending.findLast((m) => m.question === question.id && !this.#flying.has(m.id));
		if (waiting && waiting.sequence === this.#sequence) waiting.answer = answer;
		else this.#pending.push({ id: newId(), question: question.id, answer, takeover: this.paper.takeover, sequence: ++this.#sequence });
		this.#keep();
		if (answer.length < LONG) {
			void this.flush();
			return;
		}
		this.status = 'saving';
		clearTimeout(this.#timer);
		this.#timer = setTimeout(() => void this.flush(), PAUSE);
	}

	/** Send what waits; whatever the server did not acknowledge stays, and is tried again. */
	async flush(moved = false): Promise<boolean> {
		if (this.#sending) return false;
		clearTimeout(this.#timer);
		this.#sending = true;
		for (let once = moved; this.#pending.length || once; once = false) {
			this.status = this.#wait ? 'waiting' : 'saving';
			const batch = this.#pending.slice(0, 100);
			this.#flying = new Set(batch.map((m) => m.id));
			try {
				const times = this.#times();
				const receipt = await body(api.POST('/api/sit/answers', { body: { answers: batch, reached: this.#reached, times } }));
				this.#wait = 0;
				for (const t of times) this.#told[t.question] = t.milliseconds;
				const gone = new Set([...receipt.acknowledged, ...receipt.refused.map((r) => r.name)]);
				this.#pending = this.#pending.filter((m) => !gone.has(m.id));
				this.#keep();
				if (receipt.refused[0]) this.refused = String(receipt.refused[0].value);
				if (receipt.state !== 'answering') this.ended = receipt.state;
				if (this.paper && receipt.takeover > this.paper.takeover) this.takenOver = true;
			} catch (error) {
				if (error instanceof Problem && error.status < 500 && error.status !== 429) {
					this.refused = error.detail;
					this.ended = error.status === 401 ? 'signed_out' : this.ended;
				}
				this.#wait = Math.min(10_000, (this.#wait || 500) * 2);
				this.status = 'waiting';
				this.#timer = setTimeout(() => void this.flush(), this.#wait);
				this.#sending = false;
				return false;
			}
		}
		this.#sending = false;
		this.status = 'saved';
		return true;
	}

	/** What was right of one question, told at once; the answer stays from then on. */
	async check(question: Schemas['QuestionOut']) {
		if (!(await this.#flushed())) throw new Error('This answer is not saved yet. Try again in a moment.');
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

	/** Everything that was answered so far is on disk; waits for a message that is on its way. */
	async #flushed(): Promise<boolean> {
		for (let tries = 0; this.#sending && tries < 40; tries++) await new Promise((done) => setTimeout(done, 50));
		return this.flush();
	}

	async handIn() {
		if (!(await this.#flushed()) || !(await this.flush(true))) throw new Error('Some answers are not saved yet. Keep this page open and try again in a moment.');
		await api.POST('/api/sit/hand-in');
		try {
			await this.load(); // whether there is anything to look at, or another attempt
		} catch {
			/* it is handed in all the same */
		}
		this.ended = 'handed_in';
	}

	async leave() {
		await api.POST('/api/sit/leave');
	}

	#keep() {
		if (this.#pending.length) localStorage.setItem(this.#key, JSON.stringify(this.#pending));
		else localStorage.removeItem(this.#key);
	}
}
