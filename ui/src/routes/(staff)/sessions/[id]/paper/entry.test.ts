import { beforeEach, expect, it, vi } from 'vitest';
import { refusal, StandIn } from '../../../../../tests/server';

const server = vi.hoisted(() => ({ api: null as unknown }));
vi.mock('$lib/api/client', async (original) => ({
	...(await original<typeof import('$lib/api/client')>()),
	get api() {
		return server.api;
	}
}));
vi.mock('$lib/state/staff.svelte', () => ({ staff: { may: () => true, veiled: false } }));

const { Entry } = await import('./entry.svelte');
const LIST = 'GET /api/scoring/paper/{session}';
const SHEET = 'GET /api/scoring/paper/{session}/{sitting}';
const KEEP = 'PUT /api/scoring/paper/{session}/{sitting}';
const FORMS = 'GET /api/corrections/sessions/{session}/forms';
const AS = 'POST /api/corrections/sessions/{session}/forms';

let stand: StandIn;
const item = (number: number, way = 'letter') => ({
	place: `${number}`,
	number,
	way,
	letters: 'ABCD',
	most: 1,
	typed: ''
});

beforeEach(() => {
	stand = new StandIn();
	server.api = stand.api;
	stand.on(LIST, () => ({
		attempts: [
			{ sitting: '1', done: true },
			{ sitting: '2', done: false }
		]
	}));
	stand.on(SHEET, (asked) => ({
		sitting: asked.params?.path?.sitting,
		name: 'Ada',
		items: [item(1), item(2, 'text'), item(3, 'none')]
	}));
	stand.on(KEEP, () => ({ differs: [], answers: 2 }));
	stand.on(FORMS, () => ({ says: '', attempts: [] }));
});

async function begun(attempt: string | null = null) {
	const page = new Entry('9');
	await page.load(attempt);
	return page;
}

it('opens the first attempt that waits, or the one asked for', async () => {
	expect((await begun()).sheet?.sitting).toBe('2');
	expect((await begun('1')).sheet?.sitting).toBe('1');
});

it('knows which key is a whole answer', async () => {
	const page = await begun();
	expect(page.whole(item(1) as never, 'c')).toBe(true);
	expect(page.whole(item(1) as never, 'z')).toBe(false);
	expect(page.whole(item(2, 'text') as never, 'c')).toBe(false);
	expect(page.left).toBe(2); // what is not typed is not missing
});

it('keeps what was typed and goes on', async () => {
	const page = await begun();
	page.typed = { '1': 'a', '2': '12' };
	await page.keep();
	expect(stand.sent(KEEP)).toEqual([{ answers: { '1': 'a', '2': '12' }, again: null, submit: true }]);
	expect(page.done).toBe('Ada: 2 answers are in.');
});

it('typed twice, it is sent with both, and a difference goes back to the first typing', async () => {
	const page = await begun();
	page.twice = true;
	page.typed = { '1': 'a', '2': '12' };
	await page.keep();
	expect([stand.sent(KEEP), page.typed['1']]).toEqual([[], '']);
	stand.on(KEEP, () => ({ differs: [1], answers: 0 }));
	page.typed = { '1': 'b', '2': '12' };
	await page.keep();
	expect([page.differs, page.typed['1'], page.first]).toEqual([[1], 'a', null]);
	expect((stand.sent(KEEP)[0] as { again: unknown }).again).toEqual({ '1': 'a', '2': '12' });
});

it('loses nothing where the server refuses', async () => {
	const page = await begun();
	stand.on(KEEP, () => Promise.reject(refusal(422, 'question 1: Z is none of the letters ABCD')));
	page.typed = { '1': 'z' };
	await page.keep();
	expect([page.typed['1'], page.problem.includes('question 1')]).toEqual(['z', true]);
});

it('names attempts that fit another form, and scores those of one form together', async () => {
	const fits = (form_id: string, better: boolean) => ({ form_id, form: form_id, earned: 12, possible: 12, better });
	stand.on(FORMS, () => ({
		says: 'mixed',
		attempts: [
			{ sitting: '1', others: [fits('B', true)] },
			{ sitting: '2', others: [fits('B', false)] },
			{ sitting: '3', others: [fits('C', true)] }
		]
	}));
	stand.on(AS, () => ({ says: 'Scored.' }));
	const page = await begun();
	expect(page.odd.map((one) => one.sitting)).toEqual(['1', '3']);
	await page.scoreAs('Mixed up.');
	expect(stand.sent(AS)).toEqual([{ sittings: ['1'], form: 'B', reason: 'Mixed up.' }]);
});
