import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { refusal, settled, StandIn } from '../../../../tests/server';

const server = vi.hoisted(() => ({ api: null as unknown }));
vi.mock('$lib/api/client', async (original) => ({
	...(await original<typeof import('$lib/api/client')>()),
	get api() {
		return server.api;
	}
}));

const { DeskPage } = await import('./desk.svelte');
const DESK = 'GET /api/scoring/items/{place}';
const SCORE = 'POST /api/scoring/items/{place}/responses/{sitting}';
const SKIP = 'POST /api/scoring/items/{place}/responses/{sitting}/skip';
const ALERT = 'POST /api/scoring/items/{place}/responses/{sitting}/alert';
const PROGRESS = { responses: 3, scored: 0, waiting: 3, second: 0, adjudication: 0, mine: 3, today: 0, held: 0 };

const response = (sitting: string, more: Partial<Schemas['ResponseView']> = {}) => ({
	sitting,
	number: 1,
	waits: 'score',
	mine: null,
	comment: '',
	...more
});
const levels = (...points: number[]) => points.map((p) => ({ points: p, text: '' }));

let stand: StandIn;

beforeEach(() => {
	stand = new StandIn();
	server.api = stand.api;
	stand.on(DESK, () => ({
		finding: 'three wait',
		progress: PROGRESS,
		response: response('11'),
		criteria: [
			{ part: '1', title: 'Claim', levels: levels(1, 0) },
			{ part: '1', title: 'Reasons', levels: levels(2, 1, 0) }
		],
		conditions: [{ code: 'blank', key: 'B', word: 'blank', worth: 'zero' }],
		phrases: [],
		settles: false
	}));
	stand.on(SCORE, () => ({ finding: 'two wait', progress: PROGRESS, response: response('12') }));
});

async function begun() {
	const page = new DeskPage('7', '5');
	await page.load();
	return page;
}

function press(page: InstanceType<typeof DeskPage>, key: string, on: HTMLElement = document.body, letters = true) {
	const event = new KeyboardEvent('keydown', { key, cancelable: true });
	Object.defineProperty(event, 'target', { value: on });
	page.key(event, letters);
}

describe('scoring by keys', () => {
	it('gives a level to one criterion after the other, and saves with Enter', async () => {
		const page = await begun();
		press(page, '1');
		expect([page.criteria, page.at, page.ready]).toEqual([[1, null], 1, false]);
		press(page, 'Enter');
		expect(stand.sent(SCORE)).toEqual([]); // half a score is none
		press(page, '2');
		press(page, 'Enter');
		await settled();
		expect(stand.sent(SCORE)).toEqual([
			{ window: '5', criteria: [1, 2], code: '', comment: '', final: false, second: false, truth: false }
		]);
		expect([page.response?.sitting, page.criteria, page.finding]).toEqual(['12', [null, null], 'two wait']);
	});

	it('knows no number that is no level of the criterion', async () => {
		const page = await begun();
		press(page, '7');
		expect(page.criteria).toEqual([null, null]);
	});

	it('takes a condition code in place of points, and points in place of a code', async () => {
		const page = await begun();
		press(page, '1');
		press(page, 'b');
		expect([page.code, page.criteria, page.ready]).toEqual(['blank', [null, null], true]);
		press(page, '0');
		expect([page.code, page.criteria]).toEqual(['', [0, null]]);
	});

	it('leaves letters alone for whoever speaks to the device, and every key where something is written', async () => {
		const page = await begun();
		press(page, 'b', document.body, false);
		press(page, '1', document.createElement('textarea'));
		expect([page.code, page.criteria]).toEqual(['', [null, null]]);
	});

	it('asks once before a name goes out', async () => {
		const page = await begun();
		stand.on(ALERT, () => ({ to: ['Ada Kerr'] }));
		press(page, '!');
		expect([page.alerting, stand.sent(ALERT)]).toEqual([true, []]);
		press(page, '1');
		expect(page.criteria).toEqual([null, null]); // nothing else happens meanwhile
		await page.alert();
		expect([page.alerted, page.alerting, stand.sent(ALERT)]).toEqual([['Ada Kerr'], false, [{ window: '5' }]]);
	});
});

describe('what goes wrong', () => {
	it('keeps what was given where the server cannot be reached, and sends it again', async () => {
		const page = await begun();
		press(page, '1');
		press(page, '2');
		page.comment = 'Say why.';
		stand.on(SCORE, () => {
			throw new TypeError('network');
		});
		await page.save();
		expect([page.problem !== '', page.criteria, page.comment, page.response?.sitting]).toEqual([
			true,
			[1, 2],
			'Say why.',
			'11'
		]);
		stand.on(SCORE, () => ({ finding: '', progress: PROGRESS, response: null }));
		await page.save();
		expect([page.problem, page.response]).toEqual(['', null]);
	});

	it('says that somebody else was quicker', async () => {
		const page = await begun();
		press(page, '1');
		press(page, '2');
		stand.on(SCORE, () => {
			throw refusal(409, 'someone else has scored this response; take the next one');
		});
		await page.save();
		expect(page.problem).toContain('someone else has scored this response');
		stand.on(SKIP, () => ({ finding: '', progress: PROGRESS, response: response('13') }));
		press(page, 'ArrowRight');
		await settled();
		expect([page.problem, page.response?.sitting]).toEqual(['', '13']);
	});

	it('gives nothing to a response that is settled or waits for somebody else', async () => {
		for (const waits of ['', 'adjudication']) {
			stand.on(SKIP, () => ({ finding: '', progress: PROGRESS, response: response('14', { waits }) }));
			const page = await begun();
			await page.skip();
			press(page, '1');
			expect([page.open, page.criteria]).toEqual([false, [null, null]]);
		}
	});

	it('shows what this person gave before, to be changed', async () => {
		const mine = {
			by: 'me',
			mine: true,
			points: 2,
			criteria: [1, 1],
			code: '',
			final: false,
			second: false,
			truth: false,
			at: ''
		};
		stand.on(SKIP, () => ({
			finding: '',
			progress: PROGRESS,
			response: response('15', { waits: '', mine, comment: 'Good.' })
		}));
		const page = await begun();
		await page.skip();
		expect([page.open, page.criteria, page.comment, page.ready]).toEqual([true, [1, 1], 'Good.', true]);
	});
});

it('puts phrases one behind the other', async () => {
	const page = await begun();
	page.phrase('Show the root.');
	page.phrase('Compare the two.');
	expect(page.comment).toBe('Show the root. Compare the two.');
});

it('asks for a second opinion by a key, which a score that is right for all does not want', async () => {
	const page = await begun();
	press(page, '1');
	press(page, '2');
	press(page, '?');
	await page.save();
	expect(stand.sent(SCORE)[0]).toMatchObject({ second: true, truth: false });
	expect(page.second).toBe(false);
	press(page, '?');
	page.asTruth(true);
	expect([page.second, page.truth]).toEqual([false, true]);
});
