import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { refusal, settled, StandIn } from '../../tests/server';

const server = vi.hoisted(() => ({ api: null as unknown }));
vi.mock('$lib/api/client', async (original) => ({
	...(await original<typeof import('$lib/api/client')>()),
	get api() {
		return server.api;
	}
}));
const went = vi.hoisted(() => [] as string[]);
vi.mock('$app/navigation', () => ({ goto: (to: string) => Promise.resolve(void went.push(to)) }));

/** The line on which the server tells that something moved. */
class Line extends EventTarget {
	static open: Line[] = [];
	closed = false;
	constructor(readonly url: string) {
		super();
		Line.open.push(this);
	}
	close() {
		this.closed = true;
	}
}
vi.stubGlobal('EventSource', Line);
vi.stubGlobal('scrollTo', () => {});

const { Sitting } = await import('./sitting.svelte');
const { Run } = await import('./taking.svelte');

const PAPER = 'GET /api/sit/paper';
const ANSWERS = 'POST /api/sit/answers';
const STANDING = 'GET /api/sit/standing';
const HAND_IN = 'POST /api/sit/hand-in';
/** Half a minute short, so that minutes rounded up are 60 whatever the test itself takes. */
const HOUR = 3_570_000;

function question(id: string, type: 'choice' | 'entry' = 'choice', part = 0) {
	const options = ['A', 'B', 'C'].map((o) => ({ id: o, html: o }));
	const asked = { id: 'p', type, prompt: '', options, most: 1 };
	const number = 'QRS'.indexOf(id) + 1;
	return {
		id,
		number,
		shown: { body: '', parts: [asked] },
		answer: '',
		part,
		hints: [],
		final: false,
		stimulus: null,
		notes: '',
		sketch: ''
	};
}

function paper(changed: Partial<Schemas['PaperOut']> = {}) {
	return {
		sitting: '5',
		state: 'answering',
		now: new Date().toISOString(),
		end: new Date(Date.now() + HOUR).toISOString(),
		csrf: 'token',
		takeover: 1,
		sequence: 0,
		questions: [question('Q'), question('R', 'entry'), question('S', 'choice', 1)],
		tools: [],
		parts: [],
		one_by_one: false,
		one_way: false,
		reached: 0,
		check: false,
		...changed
	} as unknown as Schemas['PaperOut'];
}

let stand: StandIn;
let held: Schemas['PaperOut'];
let away: boolean;
/** What the server holds, by question. */
let kept: Map<string, string>;

beforeEach(() => {
	localStorage.clear();
	sessionStorage.clear();
	[Line.open, went.length, away] = [[], 0, false];
	kept = new Map();
	stand = new StandIn();
	server.api = stand.api;
	held = paper();
	stand.on(PAPER, () => {
		if (away) throw new TypeError('network');
		return structuredClone(held);
	});
	stand.on(STANDING, () => ({ state: held.state, takeover: held.takeover, end: held.end, now: held.now }));
	stand.on(HAND_IN, () => {
		if (away) throw new TypeError('network');
		held.state = 'handed_in';
		return { state: 'handed_in' };
	});
	stand.on(ANSWERS, ({ body }) => {
		if (away) throw new TypeError('network');
		const { answers } = body as { answers: { id: string; question: string; answer: string }[] };
		for (const message of answers) kept.set(message.question, message.answer);
		return {
			acknowledged: answers.map((m) => m.id),
			refused: [],
			state: held.state,
			takeover: held.takeover
		};
	});
});

async function begun(trial = false) {
	const run = new Run(new Sitting(), '/sit', trial);
	const stop = run.begin();
	await settled();
	return { run, sitting: run.sitting, stop };
}

const key = (name: string, target: HTMLElement = document.body) => {
	const event = new KeyboardEvent('keydown', { key: name });
	Object.defineProperty(event, 'target', { value: target });
	return event;
};

describe('beginning', () => {
	it('shows the test where the student was', async () => {
		localStorage.setItem('bildung.sitting.5.place', '2');
		const { run } = await begun();
		expect([run.question?.id, run.last, run.minutes]).toEqual(['S', true, 60]);
	});

	it('never begins behind the last question, nor before what a one-way test has reached', async () => {
		localStorage.setItem('bildung.sitting.5.place', '40');
		expect((await begun()).run.question?.id).toBe('S');
		localStorage.setItem('bildung.sitting.5.place', '0');
		held = paper({ one_way: true, reached: 1 });
		const { run } = await begun();
		run.show(0);
		expect(run.question?.id).toBe('R');
	});

	it('goes to the door where nobody is signed in', async () => {
		stand.on(PAPER, () => {
			throw refusal(401, 'sign in first');
		});
		const { run } = await begun();
		expect([went, run.problem]).toEqual([['/sit'], '']);
	});

	it('says that the server is away, and keeps saying so', async () => {
		stand.on(PAPER, () => {
			throw new TypeError('network');
		});
		const { run } = await begun();
		expect([went, run.problem]).toEqual([
			[],
			'The server cannot be reached. Nothing was lost here; try again in a moment.'
		]);
	});

	it('shows answers that this device holds and the server has not', async () => {
		const { sitting, stop } = await begun();
		away = true;
		sitting.answer(sitting.paper!.questions[0]!, 'B');
		await settled();
		stop();
		away = false;
		const again = await begun();
		expect(again.run.question?.answer).toBe('B');
		await settled();
		expect(kept.get('Q')).toBe('B');
	});
});

describe('answering', () => {
	it('chooses by letter, and not where the question is settled or a page lies over it', async () => {
		const { run } = await begun();
		run.key(key('b'));
		expect(run.question?.answer).toBe('B');
		run.key(key('z')); // there is no such choice
		expect(run.question?.answer).toBe('B');
		run.overview();
		run.key(key('c'));
		run.show(0);
		run.question!.final = true;
		run.key(key('c'));
		expect(run.question?.answer).toBe('B');
	});

	it('turns the page by arrow, but not out of a field, and stops at both ends', async () => {
		const { run } = await begun();
		run.key(key('ArrowLeft'));
		expect(run.question?.id).toBe('Q');
		run.key(key('ArrowRight'));
		const field = document.createElement('input');
		field.type = 'text';
		run.key(key('ArrowRight', field));
		expect(run.question?.id).toBe('R');
		run.key(key('Enter', field));
		expect(run.question?.id).toBe('S');
		run.key(key('ArrowRight'));
		expect(run.question?.id).toBe('S');
	});

	it('counts a question as answered only when it is', async () => {
		const { run } = await begun();
		run.key(key('a'));
		run.sitting.comeBack('R');
		const [first, second] = run.paper!.questions;
		expect(run.stands(first!)).toBe('Question 1, answered');
		expect(run.stands(second!)).toBe('Question 2, open, come back to it');
		expect(run.sitting.unanswered.map((q) => q.id)).toEqual(['R', 'S']);
	});

	it('says honestly whether an answer is kept', async () => {
		const { run } = await begun();
		expect(run.status).toBe('Saved');
		away = true;
		run.key(key('a'));
		await settled();
		expect(run.status).toBe('Not saved yet. Keep this page open.');
		run.sitting.kept = false;
		expect(run.status).toBe('Not saved yet, and this device is full. Do not close this page.');
		run.sitting.refused = 'the question was taken out';
		expect(run.status).toBe('Not saved: the question was taken out');
		expect((await begun(true)).run.status).toBe('Preview: nothing is saved');
	});

	it('names a part only where it begins', async () => {
		held = paper({ parts: [{ name: 'One' }, { name: 'Two' }] as unknown as Schemas['PaperOut']['parts'] });
		const { run } = await begun();
		expect(run.begins).toEqual({ name: 'One' });
		run.show(1);
		expect(run.begins).toBeUndefined();
		run.show(2);
		expect(run.begins).toEqual({ name: 'Two' });
	});
});

describe('sections that end by their own minutes', () => {
	const parts = [
		{ name: 'One', seconds: 600 },
		{ name: 'Two', seconds: 290 }
	] as unknown as Schemas['PaperOut']['parts'];
	const timed = (changed: Partial<Schemas['PaperOut']> = {}) =>
		paper({ timed: true, parts, section_end: new Date(Date.now() + 570_000).toISOString(), ...changed });
	const told = () => stand.sent(ANSWERS).at(-1) as { reached: number; section_ago: number };

	it('keep to their questions and their minutes', async () => {
		held = timed();
		const { run } = await begun();
		expect([run.section, run.minutes, run.finishing]).toEqual(['Section 1 of 2', 10, false]);
		run.show(2);
		expect([run.question?.id, run.last]).toEqual(['R', true]);
		run.nextSection();
		await settled();
		run.show(0);
		expect([run.question?.id, run.section, run.minutes, run.finishing]).toEqual(['S', 'Section 2 of 2', 5, true]);
		expect([told().reached, told().section_ago < 2]).toEqual([2, true]);
	});

	it('end by themselves, and the last one submits', async () => {
		held = timed({ section_end: new Date(Date.now() - 1000).toISOString() });
		const { run } = await begun();
		run.atTheEnd();
		await settled();
		expect([run.question?.id, run.sectionOver, run.ended]).toEqual(['S', true, '']);
		run.sitting.paper!.section_end = new Date(Date.now() - 1000).toISOString();
		run.atTheEnd();
		await settled();
		expect(run.ended).toBe('handed_in');
	});

	it('go on without a network, over a reload, and are told with their time', async () => {
		held = timed();
		const first = await begun();
		away = true;
		first.run.nextSection();
		first.run.key(key('b'));
		await settled();
		first.stop();
		const { run, sitting } = await begun();
		expect([run.question?.id, run.minutes, sitting.away]).toEqual(['S', 5, true]);
		await sitting.ask();
		expect(run.minutes).toBe(5);
		away = false;
		await sitting.ask();
		expect([told().reached, kept.get('S')]).toEqual([2, 'B']);
	});
});

describe('the end', () => {
	it('hands in once when time is over by the clock of the server', async () => {
		held = paper({ now: new Date(Date.now() + 2 * HOUR).toISOString() }); // this device is two hours slow
		const { run } = await begun();
		expect(run.minutes).toBe(0);
		run.atTheEnd();
		run.atTheEnd();
		await settled();
		expect(stand.sent(HAND_IN)).toHaveLength(1);
		expect(run.ended).toBe('handed_in');
	});

	it('hands nothing in while there is time, however fast this device is', async () => {
		held = paper({
			now: new Date(Date.now() - 2 * HOUR).toISOString(),
			end: new Date(Date.now() - HOUR).toISOString()
		});
		const { run } = await begun();
		expect(run.minutes).toBe(60);
		run.atTheEnd();
		await settled();
		expect(stand.sent(HAND_IN)).toEqual([]);
	});

	it('hands nothing in of a trial run', async () => {
		held = paper({ end: new Date(Date.now() - HOUR).toISOString() });
		const { run } = await begun(true);
		run.atTheEnd();
		await settled();
		expect(stand.sent(HAND_IN)).toEqual([]);
	});

	it('is on this device where there is no network, and at the server as soon as there is', async () => {
		const { run, sitting } = await begun();
		away = true;
		run.key(key('a'));
		await settled();
		const before = Date.now();
		await run.handIn();
		expect([run.problem, run.ended]).toEqual(['', 'kept_here']);
		run.atTheEnd();
		await sitting.settle();
		expect(run.ended).toBe('kept_here');
		away = false;
		await sitting.ask();
		const how = stand.sent(HAND_IN).at(-1) as { at: string; time_over: boolean };
		expect([how.time_over, Math.abs(Date.parse(how.at) - before) < 5000]).toEqual([false, true]);
		expect([run.ended, kept.get('Q')]).toEqual(['handed_in', 'A']);
		expect(Object.keys(localStorage).filter((k) => k.endsWith('.submitted'))).toEqual([]);
	});

	it('is taken back where there was time left that the device could not know of', async () => {
		const { run, sitting } = await begun();
		away = true;
		held = { ...held, end: new Date(Date.now() - 1000).toISOString() };
		sitting.paper!.end = held.end;
		run.atTheEnd();
		await settled();
		expect(run.ended).toBe('kept_here');
		away = false;
		held = { ...held, end: new Date(Date.now() + HOUR / 10).toISOString() };
		stand.on(HAND_IN, () => ({ state: 'answering' }));
		await sitting.settle();
		expect([run.ended, sitting.goesOn, run.minutes]).toEqual(['', true, 6]);
		stand.on(HAND_IN, () => ({ state: 'handed_in' }));
		held = { ...held, end: new Date(Date.now() - 1000).toISOString() };
		await sitting.ask();
		await settled();
		run.atTheEnd();
		await settled();
		expect(run.ended).toBe('handed_in'); // and is submitted once more when that is over
	});

	it('is seen at once where the session is closed, and over where it is opened again', async () => {
		const { run, sitting } = await begun();
		held = { ...held, state: 'handed_in' };
		Line.open[0]!.dispatchEvent(new Event('moved'));
		await settled();
		expect([run.ended, sitting.closed]).toEqual(['handed_in', true]);
		held = { ...held, state: 'answering' };
		Line.open[0]!.dispatchEvent(new Event('moved'));
		await settled();
		expect([run.ended, sitting.closed]).toEqual(['', false]);
	});

	it('is seen where another device took the attempt over, and then nothing is answered here', async () => {
		const { sitting } = await begun();
		held = { ...held, takeover: 2 };
		await sitting.ask();
		expect(sitting.takenOver).toBe(true);
		sitting.answer(sitting.paper!.questions[0]!, 'C');
		await settled();
		expect(kept.has('Q')).toBe(false);
	});

	it('takes more time as soon as it is given', async () => {
		const { run } = await begun();
		held = { ...held, end: new Date(Date.parse(held.end) + HOUR / 2).toISOString() };
		await run.sitting.ask();
		expect(run.minutes).toBe(90);
	});

	it('lets go of the line when the page is left', async () => {
		const { stop } = await begun();
		stop();
		expect(Line.open.map((line) => line.closed)).toEqual([true]);
	});
});

describe('notes', () => {
	it('are sent like answers when the student pauses, and stay beside theirs', async () => {
		const { run, sitting } = await begun();
		sitting.beside(run.question!, 'notes', 'carry');
		sitting.beside(run.question!, 'notes', 'carry the one');
		run.key(key('b'));
		await settled();
		const sent = stand.sent(ANSWERS).flatMap((m) => (m as { answers: { about: string; answer: string }[] }).answers);
		expect(sent.map((m) => [m.about, m.answer])).toEqual([
			['notes', 'carry the one'],
			['answer', 'B']
		]);
	});
});

describe('submitting', () => {
	it('waits until the minute that the form says', async () => {
		held = paper({ submit_from: new Date(Date.now() + 90_000).toISOString() });
		expect((await begun()).run.submitIn).toBe(2);
	});

	it('asks once where it is far quicker than usual', async () => {
		held = paper({ brief_until: new Date(Date.now() + HOUR).toISOString() });
		const { run } = await begun();
		await run.submit();
		expect([run.hasty, stand.sent(HAND_IN)]).toEqual([true, []]);
		await run.submit();
		expect(run.ended).toBe('handed_in');
	});
});

describe('visits', () => {
	it('end where another question begins, and are told once', async () => {
		const { run } = await begun();
		run.show(1);
		run.show(2);
		run.key(key('a'));
		await settled();
		const told = () =>
			stand.sent(ANSWERS).map((m) => (m as { visits: { question: string }[] }).visits.map((v) => v.question));
		expect(told()).toEqual([[]]); // not with every answer
		await run.handIn();
		expect(told().flat().slice(0, 2)).toEqual(['Q', 'R']);
	});
});

describe('without a server', () => {
	it('a reload shows the test as it was left, with what was answered since', async () => {
		const { run } = await begun();
		run.key(key('a'));
		await settled();
		run.show(1);
		run.sitting.beside(run.question!, 'notes', 'seven');
		away = true;
		run.sitting.answer(run.question!, '42');
		await settled();
		const later = await begun();
		expect(later.sitting.away).toBe(true);
		expect(later.sitting.paper!.questions.map((q) => q.answer)).toEqual(['A', '42', '']);
		expect([later.run.question?.id, later.run.question?.notes]).toEqual(['R', 'seven']);
		away = false;
		await later.sitting.ask();
		expect(kept.get('R')).toBe('42');
	});

	it('an answer changed after such a reload is later than the one the server has', async () => {
		const { run } = await begun();
		run.key(key('a'));
		await settled();
		away = true;
		const later = await begun();
		later.run.key(key('c'));
		await settled();
		away = false;
		await later.sitting.ask();
		const sent = stand.sent(ANSWERS).flatMap((m) => (m as { answers: { answer: string; sequence: number }[] }).answers);
		expect([sent.at(0)!.sequence, sent.at(-1)!.sequence, kept.get('Q')]).toEqual([1, 2, 'C']);
	});

	it('shows nothing to whoever comes after a student who left', async () => {
		stand.on('POST /api/sit/leave', () => {
			throw new TypeError('network');
		});
		const { run } = await begun();
		away = true;
		await run.leave();
		went.length = 0;
		await begun();
		expect(went).toEqual(['/sit']); // the door of this test
		expect(localStorage.getItem('bildung.sitting.5.paper')).toBeNull();
	});
});

describe('several students in turn', () => {
	const DELIVER = 'POST /api/sit/deliver';
	let delivered: {
		delivery: string;
		answers: { id: string; question: string; answer: string }[];
		submitted?: string;
	}[];
	let line: boolean;

	beforeEach(() => {
		delivered = [];
		line = false;
		stand.on('POST /api/sit/leave', () => undefined);
		stand.on(DELIVER, ({ body }) => {
			if (!line) throw new TypeError('network');
			const sent = body as (typeof delivered)[number];
			delivered.push(sent);
			return { acknowledged: sent.answers.map((m) => m.id), refused: [], state: 'answering', takeover: 1 };
		});
	});

	it('brings at the door what a student who closed the page could not send, and wipes nothing of theirs', async () => {
		held = paper({ delivery: 'of-the-first' });
		const first = await begun();
		away = true;
		first.run.key(key('a'));
		await settled();
		await first.run.handIn();
		first.stop();
		line = true;
		const { Errands } = await import('./errands.svelte');
		const door = new Errands(true);
		await door.run();
		await door.run();
		expect(delivered.map((d) => [d.answers.map((a) => a.answer), !!d.submitted])).toEqual([
			[['A'], false],
			[[], true]
		]); // once
		expect([door.students, localStorage.getItem('bildung.sitting.5.paper') !== null]).toEqual([0, true]);
	});

	it('brings what the first could not send, and shows none of it', async () => {
		held = paper({ delivery: 'of-the-first' });
		const first = await begun();
		away = true;
		first.run.key(key('a'));
		await settled();
		await first.run.handIn();
		await first.run.leave();
		first.stop();
		away = false;
		held = paper({ sitting: '6', delivery: 'of-the-second' });
		stand.on(ANSWERS, () => {
			throw new TypeError('network'); // the second cannot save either
		});
		const second = await begun();
		await settled();
		expect(second.sitting.paper!.questions.map((q) => q.answer)).toEqual(['', '', '']);
		expect([second.run.errands.answers, second.run.errands.students]).toEqual([1, 1]);
		second.run.key(key('b'));
		line = true;
		await second.run.errands.run();
		expect(delivered.map((d) => [d.delivery, d.answers.map((a) => a.answer), !!d.submitted])).toEqual([
			['of-the-first', ['A'], false],
			['of-the-first', [], true]
		]);
		expect(second.run.errands.students).toBe(0);
		const left = Object.keys(localStorage).filter((k) => k.startsWith('bildung.sitting.5'));
		expect(left).toEqual([]);
		expect(second.sitting.paper!.questions[0]!.answer).toBe('B');
		second.stop();
	});
});
