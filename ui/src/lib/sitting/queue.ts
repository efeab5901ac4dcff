/**
 * Answers on their way to the server. Every answer goes into a queue that outlives the page and leaves it only when the
 * server has said that it is on disk, or that it will never take it. Nothing here knows of pages or of the network: it
 * is given a place to keep things, a way to send, and a clock.
 */

/** One answer. id: made here, so that a repeat counts once. takeover, sequence: its place in the order. about: what was made
 *  beside the answer, where it is that. */
export type Message = {
	id: string;
	question: string;
	answer: string;
	takeover: number;
	sequence: number;
	about?: Beside;
};
export type Beside = 'notes' | 'sketch';

/** What the server says of a batch. refused: id and why. state: of the attempt. takeover: the newest device's number. */
export type Receipt = {
	acknowledged: string[];
	refused: { id: string; why: string }[];
	state: string;
	takeover: number;
};

/** An answer that the server will not take, kept on the device so that somebody can decide about it. */
export type Refused = Message & { why: string };

/** What stopped a batch. status: of the answer, 0 where none came. */
export class SendFailure extends Error {
	constructor(
		readonly status: number,
		message: string
	) {
		super(message);
	}
}

export type Status = 'saved' | 'saving' | 'waiting';

export interface Place {
	getItem(key: string): string | null;
	setItem(key: string, value: string): void;
	removeItem(key: string): void;
}

export interface Clock {
	start(task: () => void, milliseconds: number): unknown;
	stop(timer: unknown): void;
}

/** What the queue tells whoever shows it. */
export interface Listener {
	status?(status: Status): void;
	receipt?(receipt: Receipt): void;
	refused?(message: Refused): void;
	/** The server no longer knows who this is (401, 403). Answers stay until somebody signs in again. */
	signedOut?(): void;
	/** Whether a copy of the answers can be kept on this device at all. */
	kept?(yes: boolean): void;
}

const BATCH = 100;
const FIRST_WAIT = 500;
const LONGEST_WAIT = 10_000;
const REFUSED_KEPT = 200;
const realClock: Clock = {
	start: (task, milliseconds) => setTimeout(task, milliseconds),
	stop: (timer) => clearTimeout(timer as ReturnType<typeof setTimeout>)
};

/** An id of our own; works without a secure address, where randomUUID does not exist. */
function newId(): string {
	return [...crypto.getRandomValues(new Uint8Array(16))].map((b) => b.toString(16).padStart(2, '0')).join('');
}

export class AnswerQueue {
	#pending: Message[] = [];
	#refused: Refused[] = [];
	#tried = new Set<string>(); // may be with the server already, so they never change under their id
	#sending: Promise<boolean> | null = null;
	#wait = 0;
	#size = BATCH;
	#timer: unknown;
	#sequence = 0;

	/**
	 * key: where this attempt's answers are kept. takeover: this device's number. sequence: the last one that the server
	 * has from it. Answers that an earlier page, or this device before a takeover, left behind are taken up.
	 */
	constructor(
		readonly key: string,
		readonly takeover: number,
		sequence: number,
		private readonly place: Place,
		private readonly send: (batch: Message[]) => Promise<Receipt>,
		private readonly listener: Listener = {},
		private readonly clock: Clock = realClock
	) {
		this.#pending = this.#read(key);
		this.#tried = new Set(this.#pending.map((m) => m.id));
		this.#refused = this.#read<Refused>(`${key}.refused`);
		this.#sequence = Math.max(
			sequence,
			0,
			...this.#pending.filter((m) => m.takeover === takeover).map((m) => m.sequence)
		);
	}

	get pending(): readonly Message[] {
		return this.#pending;
	}

	/** The place in the order that was given last. */
	get sequence(): number {
		return this.#sequence;
	}

	/** Answers that the server did not take, oldest first. */
	get refused(): readonly Refused[] {
		return this.#refused;
	}

	/** Put an answer in. What was put in for the same question just before, and was never sent, goes as one. */
	put(question: string, answer: string, about?: Beside): void {
		const waiting = this.#pending.findLast(
			(m) => m.question === question && m.about === about && !this.#tried.has(m.id)
		);
		if (waiting && waiting.sequence === this.#sequence && waiting.takeover === this.takeover) waiting.answer = answer;
		else {
			const made: Message = { id: newId(), question, answer, takeover: this.takeover, sequence: ++this.#sequence };
			this.#pending.push(about ? { ...made, about } : made);
		}
		this.#keep();
	}

	/** Send when nothing more was put in for so long; an answer being written at length is not sent letter by letter. */
	later(milliseconds: number): void {
		this.listener.status?.('saving');
		this.clock.stop(this.#timer);
		this.#timer = this.clock.start(() => void this.flush(), milliseconds);
	}

	/**
	 * Send what waits, and with `once` a message even if nothing does; true when all of it is on disk or refused. Called
	 * while a send is under way, it waits for that one and then sends what came in meanwhile.
	 */
	async flush(once = false): Promise<boolean> {
		while (this.#sending) await this.#sending;
		this.clock.stop(this.#timer);
		const run = this.#run(once);
		this.#sending = run;
		try {
			return await run;
		} finally {
			this.#sending = null;
		}
	}

	/** Stop trying; what waits stays on the device for the next page. */
	stop(): void {
		this.clock.stop(this.#timer);
	}

	async #run(once: boolean): Promise<boolean> {
		for (let first = once; this.#pending.length || first; first = false) {
			this.listener.status?.(this.#wait ? 'waiting' : 'saving');
			const batch = this.#pending.slice(0, this.#size).map((m) => ({ ...m }));
			for (const m of batch) this.#tried.add(m.id);
			try {
				const receipt = await this.send(batch);
				this.#wait = 0;
				if (!this.#take(batch, receipt)) this.#narrow(batch, 'the server said nothing of it');
			} catch (error) {
				if (this.#giveUp(batch, error)) return false;
			}
		}
		this.#size = BATCH;
		this.listener.status?.('saved');
		return true;
	}

	/** Whether the receipt moved anything of the batch. */
	#take(batch: Message[], receipt: Receipt): boolean {
		const why = new Map(receipt.refused.map((r) => [r.id, r.why]));
		const gone = new Set([...receipt.acknowledged, ...why.keys()]);
		for (const message of batch) if (why.has(message.id)) this.#setAside(message, why.get(message.id) ?? '');
		const before = this.#pending.length;
		this.#pending = this.#pending.filter((m) => !gone.has(m.id));
		this.#keep();
		this.listener.receipt?.(receipt);
		if (this.#pending.length < before) this.#size = Math.min(BATCH, this.#size * 2);
		return batch.length === 0 || this.#pending.length < before;
	}

	/** Whether to stop for now. A batch that is refused as a whole is halved until the one at fault is alone. */
	#giveUp(batch: Message[], error: unknown): boolean {
		const status = error instanceof SendFailure ? error.status : 0;
		if (status === 401 || status === 403) {
			this.listener.status?.('waiting');
			this.listener.signedOut?.();
			return true;
		}
		if (batch.length && status >= 400 && status < 500 && status !== 408 && status !== 429) {
			this.#narrow(batch, error instanceof Error ? error.message : '');
			return false;
		}
		this.#wait = Math.min(LONGEST_WAIT, (this.#wait || FIRST_WAIT / 2) * 2);
		this.listener.status?.('waiting');
		this.#timer = this.clock.start(() => void this.flush(), this.#wait);
		return true;
	}

	#narrow(batch: Message[], why: string): void {
		const only = batch[0];
		if (batch.length > 1) this.#size = Math.ceil(batch.length / 2);
		else if (only) {
			this.#setAside(only, why);
			this.#pending = this.#pending.filter((m) => m.id !== only.id);
			this.#keep();
		}
	}

	#setAside(message: Message, why: string): void {
		const refused = { ...message, why };
		this.#refused = [...this.#refused.filter((m) => m.id !== message.id), refused].slice(-REFUSED_KEPT);
		this.#write(`${this.key}.refused`, this.#refused);
		this.listener.refused?.(refused);
	}

	#keep(): void {
		const kept = this.#write(this.key, this.#pending); // by itself: what an optional call is given is not worked out without it
		this.listener.kept?.(kept);
	}

	/** Whether a list could be kept; a full or forbidden store is no reason to lose what is in memory. */
	#write(key: string, list: Message[]): boolean {
		try {
			if (list.length) this.place.setItem(key, JSON.stringify(list));
			else this.place.removeItem(key);
			return true;
		} catch {
			return false;
		}
	}

	#read<M extends Message = Message>(key: string): M[] {
		try {
			const found: unknown = JSON.parse(this.place.getItem(key) ?? '[]');
			return Array.isArray(found) ? found.filter(isMessage<M>) : [];
		} catch {
			return [];
		}
	}
}

function isMessage<M extends Message>(value: unknown): value is M {
	const m = value as Partial<Message> | null;
	return (
		typeof m?.id === 'string' &&
		typeof m.question === 'string' &&
		typeof m.answer === 'string' &&
		Number.isInteger(m.takeover) &&
		Number.isInteger(m.sequence)
	);
}
