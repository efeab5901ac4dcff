import { beforeEach, describe, expect, it } from 'vitest';
import { AnswerQueue, SendFailure, type Message, type Place, type Receipt, type Refused, type Status } from './queue';

/** A server that keeps what it is sent, and does as it is told before it does. */
class Server {
	kept = new Map<string, Message>();
	batches: string[][] = [];
	takeover = 1;
	state = 'answering';
	/** What to do with a batch instead of keeping it; undefined: keep it. */
	before: (batch: Message[]) => void | Promise<void> = () => {};
	refuse: (message: Message) => string = () => '';
	/** The answer to the message is lost on its way back. */
	silent = false;

	send = async (batch: Message[]): Promise<Receipt> => {
		this.batches.push(batch.map((m) => m.answer));
		await this.before(batch);
		const refused = batch.filter((m) => this.refuse(m)).map((m) => ({ id: m.id, why: this.refuse(m) }));
		const gone = new Set(refused.map((r) => r.id));
		for (const m of batch) if (!gone.has(m.id)) this.kept.set(m.id, m);
		if (this.silent) throw new SendFailure(0, 'no answer');
		return {
			acknowledged: batch.map((m) => m.id).filter((id) => !gone.has(id)),
			refused,
			state: this.state,
			takeover: this.takeover
		};
	};

	get answers(): string[] {
		return [...this.kept.values()].map((m) => m.answer);
	}
}

class Shelf implements Place {
	held = new Map<string, string>();
	full = false;
	getItem(key: string) {
		return this.held.get(key) ?? null;
	}
	setItem(key: string, value: string) {
		if (this.full) throw new DOMException('full', 'QuotaExceededError');
		this.held.set(key, value);
	}
	removeItem(key: string) {
		this.held.delete(key);
	}
}

/** Time that passes when the test says so. */
class Timers {
	waiting: { task: () => void; milliseconds: number } | null = null;
	start(task: () => void, milliseconds: number) {
		this.waiting = { task, milliseconds };
		return this.waiting;
	}
	stop(timer: unknown) {
		if (timer === this.waiting) this.waiting = null;
	}
	async pass() {
		const { waiting } = this;
		this.waiting = null;
		waiting?.task();
		for (let turns = 0; turns < 50; turns++) await Promise.resolve();
	}
}

let server: Server,
	shelf: Shelf,
	timers: Timers,
	said: { status: Status[]; refused: Refused[]; signedOut: number; kept: boolean[] };
beforeEach(() => {
	[server, shelf, timers] = [new Server(), new Shelf(), new Timers()];
	said = { status: [], refused: [], signedOut: 0, kept: [] };
});

function queue(takeover = 1, sequence = 0) {
	return new AnswerQueue(
		'q',
		takeover,
		sequence,
		shelf,
		server.send,
		{
			status: (s) => said.status.push(s),
			refused: (m) => said.refused.push(m),
			signedOut: () => said.signedOut++,
			kept: (yes) => said.kept.push(yes)
		},
		timers
	);
}

describe('the way of an answer', () => {
	it('ends when the server has it, and leaves nothing on the device', async () => {
		const q = queue();
		q.put('1', 'A');
		q.put('2', 'B');
		expect(JSON.parse(shelf.getItem('q') ?? '')).toHaveLength(2);
		expect(await q.flush()).toBe(true);
		expect(server.answers).toEqual(['A', 'B']);
		expect([q.pending.length, shelf.getItem('q'), said.status.at(-1)]).toEqual([0, null, 'saved']);
	});

	it('leaves nothing on the device for whoever does not ask whether it is kept, either', async () => {
		queue().put('1', 'A');
		const other = new AnswerQueue('q', 1, 0, shelf, server.send, {}, timers);
		expect(await other.flush()).toBe(true);
		expect([server.answers, shelf.getItem('q')]).toEqual([['A'], null]);
	});

	it('never changes a message that the server may have already', async () => {
		const q = queue();
		server.silent = true;
		q.put('1', 'A');
		await q.flush();
		q.put('1', 'B');
		server.silent = false;
		await q.flush();
		expect([...server.kept.values()].map((m) => [m.answer, m.sequence])).toEqual([
			['A', 1],
			['B', 2]
		]);
	});

	it('sends a changed answer to one question as one message until it is on its way', async () => {
		const q = queue();
		q.put('1', 'A');
		q.put('1', 'B');
		q.put('2', 'C');
		q.put('1', 'D');
		await q.flush();
		expect(server.batches).toEqual([['B', 'C', 'D']]);
		expect([...server.kept.values()].map((m) => m.sequence)).toEqual([1, 2, 3]);
	});

	it('keeps an answer that is put in while another is on its way, and sends it next', async () => {
		const q = queue();
		q.put('1', 'A');
		server.before = () => {
			if (server.batches.length === 1) q.put('1', 'B');
		};
		await q.flush();
		expect(server.batches).toEqual([['A'], ['B']]);
	});

	it('takes up on the next page what this one left behind, under the same ids', async () => {
		server.before = () => Promise.reject(new SendFailure(0, 'offline'));
		const first = queue();
		first.put('1', 'A');
		await first.flush();
		server.before = () => {};
		const second = queue(1, 0);
		second.put('1', 'B');
		await second.flush();
		expect([...server.kept.values()].map((m) => [m.answer, m.sequence])).toEqual([
			['A', 1],
			['B', 2]
		]);
		expect(new Set(server.kept.keys()).size).toBe(2);
	});

	it('orders by this device’s number after a takeover, and still hands over what the device before it held', async () => {
		server.before = () => Promise.reject(new SendFailure(0, 'offline'));
		const first = queue(1);
		first.put('1', 'A');
		first.put('2', 'B');
		await first.flush();
		server.before = () => {};
		const second = queue(2, 0);
		second.put('1', 'C');
		await second.flush();
		expect([...server.kept.values()].map((m) => [m.answer, m.takeover, m.sequence])).toEqual([
			['A', 1, 1],
			['B', 1, 2],
			['C', 2, 1]
		]);
	});
});

describe('a message that came through though its receipt was lost', () => {
	it('is sent again under the same id, so that it counts once', async () => {
		const q = queue();
		q.put('1', 'A');
		server.silent = true;
		expect(await q.flush()).toBe(false);
		server.silent = false;
		await timers.pass();
		expect(server.kept.size).toBe(1);
		expect([q.pending.length, server.batches.length]).toEqual([0, 2]);
	});
});

describe('when the network or the server is away', () => {
	for (const status of [0, 500, 502, 503, 408, 429])
		it(`waits ever longer and loses nothing (${status || 'no answer'})`, async () => {
			const q = queue();
			q.put('1', 'A');
			server.before = () => Promise.reject(new SendFailure(status, 'away'));
			expect(await q.flush()).toBe(false);
			const waits = [];
			for (let tries = 0; tries < 7; tries++) {
				waits.push(timers.waiting?.milliseconds);
				await timers.pass();
			}
			expect(waits).toEqual([500, 1000, 2000, 4000, 8000, 10_000, 10_000]);
			expect([said.status.at(-1), q.pending.length, said.refused.length]).toEqual(['waiting', 1, 0]);
			server.before = () => {};
			await timers.pass();
			expect([server.answers, said.status.at(-1)]).toEqual([['A'], 'saved']);
		});

	it('treats an error that is none of ours as no answer', async () => {
		const q = queue();
		q.put('1', 'A');
		server.before = () => Promise.reject(new TypeError('Failed to fetch'));
		expect(await q.flush()).toBe(false);
		expect(q.pending).toHaveLength(1);
	});

	it('keeps everything where the student is signed out, and does not hammer', async () => {
		const q = queue();
		q.put('1', 'A');
		server.before = () => Promise.reject(new SendFailure(401, 'sign in'));
		expect(await q.flush()).toBe(false);
		expect([said.signedOut, q.pending.length, timers.waiting]).toEqual([1, 1, null]);
	});
});

describe('one answer that the server will not take', () => {
	const fill = (q: AnswerQueue, n: number) => {
		for (let at = 1; at <= n; at++) q.put(String(at), at === 7 ? 'bad' : `answer ${at}`);
	};

	for (const status of [400, 413, 422])
		it(`is found and set aside though the whole batch was refused (${status}); the others are saved`, async () => {
			const q = queue();
			fill(q, 40);
			server.before = (batch) =>
				batch.some((m) => m.answer === 'bad') ? Promise.reject(new SendFailure(status, 'too long')) : undefined;
			expect(await q.flush()).toBe(true);
			expect(server.kept.size).toBe(39);
			expect(said.refused.map((m) => [m.question, m.why])).toEqual([['7', 'too long']]);
			expect([q.pending.length, server.batches.length < 20]).toEqual([0, true]);
		});

	it('is set aside where the server names it, with the reason, and kept on the device', async () => {
		const q = queue();
		fill(q, 10);
		server.refuse = (m) => (m.answer === 'bad' ? 'the attempt is closed' : '');
		await q.flush();
		expect(server.kept.size).toBe(9);
		expect(queue().refused.map((m) => [m.answer, m.why])).toEqual([['bad', 'the attempt is closed']]);
	});

	it('does not go round for ever where the server says nothing of it', async () => {
		const q = queue();
		fill(q, 8);
		const send = server.send;
		server.send = async (batch) => {
			const receipt = await send(batch);
			const silent = batch.find((m) => m.answer === 'bad')?.id;
			return { ...receipt, acknowledged: receipt.acknowledged.filter((id) => id !== silent) };
		};
		expect(await queueOn(server, q)).toBe(true);
		expect(said.refused).toHaveLength(1);
	});

	/** The same answers through a server whose send was replaced after the queue was made. */
	async function queueOn(changed: Server, made: AnswerQueue) {
		made.stop();
		const again = new AnswerQueue('q', 1, 0, shelf, changed.send, { refused: (m) => said.refused.push(m) }, timers);
		return again.flush();
	}
});

describe('a device that cannot keep a copy', () => {
	it('says so, and sends all the same', async () => {
		shelf.full = true;
		const q = queue();
		q.put('1', 'A');
		expect(said.kept).toEqual([false]);
		expect(await q.flush()).toBe(true);
		expect(server.answers).toEqual(['A']);
	});

	it('says so again when there is room', () => {
		shelf.full = true;
		const q = queue();
		q.put('1', 'A');
		shelf.full = false;
		q.put('2', 'B');
		expect(said.kept).toEqual([false, true]);
	});

	it('begins anew where what was kept cannot be read', () => {
		for (const junk of ['{', '{"a":1}', '[1,null,{"id":"x"}]', 'null']) {
			shelf.held.set('q', junk);
			expect(queue().pending).toEqual([]);
		}
	});
});

describe('long writing', () => {
	it('is sent when the student pauses, once', async () => {
		const q = queue();
		for (const text of ['The', 'The cause', 'The cause was']) {
			q.put('1', text);
			q.later(1200);
		}
		expect(server.batches).toEqual([]);
		await timers.pass();
		expect(server.batches).toEqual([['The cause was']]);
	});
});

it('nothing to send is nothing to wait for, however often it is asked', async () => {
	const q = queue();
	for (let times = 0; times < 3; times++) expect(await q.flush()).toBe(true);
	q.put('1', 'A');
	expect(await q.flush()).toBe(true);
	expect([server.answers, said.status]).toEqual([['A'], ['saved', 'saved', 'saved', 'saving', 'saved']]);
});

it('everybody who asks while a message is on its way is told when all is on disk', async () => {
	const q = queue();
	let release = () => {};
	server.before = () => new Promise<void>((done) => (release = done));
	q.put('1', 'A');
	const first = q.flush();
	await Promise.resolve();
	q.put('2', 'B');
	const second = q.flush();
	server.before = () => {};
	release();
	expect(await Promise.all([first, second])).toEqual([true, true]);
	expect(server.answers).toEqual(['A', 'B']);
});
