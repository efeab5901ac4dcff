import { beforeEach, expect, it, vi } from 'vitest';
import { refusal, settled, StandIn } from '../../../../../tests/server';

const server = vi.hoisted(() => ({ api: null as unknown }));
vi.mock('$lib/api/client', async (original) => ({
	...(await original<typeof import('$lib/api/client')>()),
	get api() {
		return server.api;
	}
}));

const { Correcting } = await import('./correcting.svelte');
const ITEM = 'GET /api/corrections/items/{place}';
const PREVIEW = 'GET /api/corrections/preview';
const MAKE = 'POST /api/corrections';

let stand: StandIn;
const part = (key: string, more = {}) => ({
	...{ id: '1', kind: 'choice', key, points: 1, several: false, numeric: false, spelling: '' },
	options: [
		['A', 'one'],
		['B', 'two']
	],
	...more
});

beforeEach(() => {
	stand = new StandIn();
	server.api = stand.api;
	stand.on(ITEM, () => ({ parts: [part('B')], made: [], points: 1 }));
	stand.on(PREVIEW, () => ({ says: '3 of 9 students would have more.', asof: 'x1', administrations: [] }));
	stand.on(MAKE, () => ({ id: '5', says: 'Corrected. 3 of 9 students have more.' }));
});

async function begun(wish = '') {
	const page = new Correcting('14', new URLSearchParams(`window=4&${wish}`));
	await page.load();
	return page;
}

const tried = () => stand.asked.filter((a) => a.route === PREVIEW).map((a) => a.given.params?.query);

it('tries at once what was asked for, and nothing where nothing differs', async () => {
	const page = await begun('kind=key&key=A');
	expect(page.preview?.says).toBe('3 of 9 students would have more.');
	expect(tried()[0]).toMatchObject({ kind: 'key', key: 'A', window: '4', place: '14' });
	expect((await begun()).preview).toBeNull();
	expect(tried()).toHaveLength(1);
});

it('adds a second answer to the key', async () => {
	expect((await begun('kind=key&also=A')).key).toBe('B|A');
});

it('joins what must all be chosen, and parts what is accepted each', async () => {
	const page = await begun();
	page.choose(['A', 'B']);
	expect(page.key).toBe('A|B');
	stand.on(ITEM, () => ({ parts: [part('A+B', { several: true })], made: [] }));
	const several = await begun();
	expect(several.chosen).toEqual(['A', 'B']);
	several.choose(['A']);
	expect(several.key).toBe('A');
});

it('of an item that people score offers full credit first', async () => {
	stand.on(ITEM, () => ({ parts: [], made: [] }));
	const page = await begun();
	expect(page.kind).toBe('everybody');
	expect(tried()[0]).toMatchObject({ kind: 'everybody', unreached: true });
});

it('says why something cannot be tried, and decides nothing then', async () => {
	const page = await begun();
	stand.on(PREVIEW, () => Promise.reject(refusal(422, "'Z' is not one of the options")));
	page.key = 'Z';
	await page.look();
	expect(page.refused).toContain('not one of the options');
	page.reason = 'Because.';
	await page.decide();
	expect(stand.sent(MAKE)).toEqual([]);
});

it('drops an answer that was overtaken', async () => {
	const page = await begun();
	const waiting: ((value: unknown) => void)[] = [];
	stand.on(PREVIEW, () => new Promise((done) => waiting.push(done)));
	page.key = 'A';
	const first = page.look();
	page.key = 'A|B';
	const second = page.look();
	await settled();
	waiting[1]?.({ says: 'second', asof: 'b', administrations: [] });
	waiting[0]?.({ says: 'first', asof: 'a', administrations: [] });
	await Promise.all([first, second]);
	expect(page.preview?.says).toBe('second');
});

it('decides with the reason and the state that was looked at, then shows the item anew', async () => {
	const page = await begun('kind=key&key=A');
	await page.decide();
	expect(stand.sent(MAKE)).toEqual([]); // without a reason nothing is decided
	page.reason = '  The key was wrong. ';
	stand.on(ITEM, () => ({ parts: [part('A')], made: [{ id: '5' }] }));
	await page.decide();
	expect(stand.sent(MAKE)[0]).toMatchObject({ kind: 'key', key: 'A', reason: 'The key was wrong.', asof: 'x1' });
	expect([page.done, page.key, page.preview]).toEqual(['Corrected. 3 of 9 students have more.', 'A', null]);
});

it('keeps the reason where somebody else was first', async () => {
	const page = await begun('kind=key&key=A');
	page.reason = 'Wrong.';
	stand.on(MAKE, () => Promise.reject(refusal(409, 'look again at what would move')));
	await page.decide();
	expect([page.problem.includes('look again'), page.reason]).toEqual([true, 'Wrong.']);
});
