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

	#pending: Message[] = [];
	#sequence = 0;
	#flying = new Set<string>();
	#sending = false;
	#wait = 0;
	#timer: ReturnType<typeof setTimeout> | undefined;

	get #key() {
		return `bildung.sitting.${this.paper?.sitting}`;
	}

	get question() {
		return this.paper?.questions[this.place] ?? null;
	}

	get unanswered() {
		return (this.paper?.questions ?? []).filter((q) => !complete(q.shown, q.answer));
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
		this.place = Math.max(0, Number(sessionStorage.getItem(`${this.#key}.place`) ?? 0));
		this.later = JSON.parse(sessionStorage.getItem(`${this.#key}.later`) ?? '{}');
		if (this.#pending.length) void this.flush();
	}

	go(place: number) {
		const last = (this.paper?.questions.length ?? 1) - 1;
		this.place = Math.max(0, Math.min(last, place));
		sessionStorage.setItem(`${this.#key}.place`, String(this.place));
	}

	comeBack(question: string) {
		this.later[question] = !this.later[question];
		sessionStorage.setItem(`${this.#key}.later`, JSON.stringify(this.later));
	}

	answer(question: Schemas['QuestionOut'], answer: string) {
		if (!this.paper || this.takenOver || question.answer === answer) return;
		question.answer = answer;
		// what was typed since the last message and is not on its way yet goes as one message
		const waiting = this.#pending.findLast((m) => m.question === question.id && !this.#flying.has(m.id));
		if (waiting && waiting.sequence === this.#sequence) waiting.answer = answer;
		else this.#pending.push({ id: newId(), question: question.id, answer, takeover: this.paper.takeover, sequence: ++this.#sequence });
		this.#keep();
		if (answer.length < LONG) return void this.flush();
		this.status = 'saving';
		clearTimeout(this.#timer);
		this.#timer = setTimeout(() => void this.flush(), PAUSE);
	}

	/** Send what waits; whatever the server did not acknowledge stays, and is tried again. */
	async flush(): Promise<boolean> {
		if (this.#sending) return false;
		clearTimeout(this.#timer);
		this.#sending = true;
		while (this.#pending.length) {
			this.status = this.#wait ? 'waiting' : 'saving';
			const batch = this.#pending.slice(0, 100);
			this.#flying = new Set(batch.map((m) => m.id));
			try {
				const receipt = await body(api.POST('/api/sit/answers', { body: { answers: batch } }));
				this.#wait = 0;
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

	async handIn() {
		if (!(await this.flush())) throw new Error('Some answers are not saved yet. Keep this page open and try again in a moment.');
		await api.POST('/api/sit/hand-in');
		this.ended = 'handed_in';
	}

	#keep() {
		if (this.#pending.length) localStorage.setItem(this.#key, JSON.stringify(this.#pending));
		else localStorage.removeItem(this.#key);
	}
}
