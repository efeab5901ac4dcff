import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { refusal, settled, StandIn } from '../../../../../tests/server';

const server = vi.hoisted(() => ({ api: null as unknown }));
vi.mock('$lib/api/client', async (original) => ({
	...(await original<typeof import('$lib/api/client')>()),
	get api() {
		return server.api;
	}
}));
const rights = vi.hoisted(() => ({ write: true }));
vi.mock('$lib/state/staff.svelte', () => ({ staff: { may: () => rights.write } }));

const { FormPage } = await import('./form.svelte');

const ITEMS = 'PUT /api/forms/{form_id}/items';
const FORM = 'GET /api/forms/{form_id}';
const BANK = 'GET /api/bank/items';

function item(id: string) {
	return { version_id: id } as Schemas['BankItem'];
}

function form(ids: string, parts: number[] = [...ids].map(() => 0)) {
	return {
		revision: 1,
		subject: 'Mathematics',
		grade: '6',
		published_at: null,
		part_names: ['No calculator', ''],
		items: [...ids].map(item),
		parts
	} as unknown as Schemas['FormDetail'];
}

/** What the page shows: the items in order, each with its part. */
function shown(page: InstanceType<typeof FormPage>): string {
	return (page.form?.items ?? []).map((i, at) => `${i.version_id}${page.form?.parts[at]}`).join(' ');
}

let stand: StandIn;
let kept: Schemas['FormDetail'];

async function opened(start = form('ABC')) {
	kept = start;
	const page = await FormPage.open('7');
	expect(page.problem).toBe('');
	return page;
}

beforeEach(() => {
	stand = new StandIn();
	server.api = stand.api;
	rights.write = true;
	stand.on(FORM, () => structuredClone(kept));
	stand.on('GET /api/bank/overview', () => ({ standards: [{ code: 'M6.1' }] }));
	stand.on(BANK, () => ({ total: 1, items: [item('N')] }));
	stand.on('GET /api/building/forms/{form_id}/outlook', () => ({ items: kept.items.length }));
	stand.on('GET /api/building/forms/{form_id}/correction', () => ({ corrects: null }));
	stand.on('GET /api/building/forms/{form_id}/units', () => [
		{ name: 'Ratios', items: 4 },
		{ name: 'Not tagged yet', items: 0 }
	]);
	stand.on(ITEMS, ({ body }) => {
		const wanted = body as { revision: number; items: string[]; parts: number[] };
		if (wanted.revision !== kept.revision) throw refusal(409, 'somebody else changed this form');
		kept = { ...kept, revision: kept.revision + 1, items: wanted.items.map(item), parts: [...wanted.parts] };
		return structuredClone(kept);
	});
});

describe('opening a form', () => {
	it('shows it with the bank, and only units that hold items', async () => {
		const page = await opened();
		expect(shown(page)).toBe('A0 B0 C0');
		expect(page.bank?.total).toBe(1);
		expect(page.units.map((u) => u.name)).toEqual(['Ratios']);
		expect([...page.inForm]).toEqual(['A', 'B', 'C']);
	});

	it('says what the server said where it cannot be shown', async () => {
		stand.on(FORM, () => {
			throw refusal(404, 'there is no such form');
		});
		const page = await FormPage.open('7');
		expect(page.problem).toBe('Not possible: there is no such form');
		expect(page.form).toBeNull();
	});

	it('is no draft once published, nor for who may not write, and then asks for no units', async () => {
		rights.write = false;
		expect((await opened()).draft).toBe(false);
		rights.write = true;
		expect((await opened({ ...form('A'), published_at: '2026-09-01' })).draft).toBe(false);
		expect(stand.asked.some((a) => a.route.endsWith('/units'))).toBe(false);
		expect((await opened()).draft).toBe(true);
	});

	it('numbers a part without a name', async () => {
		const page = await opened();
		expect([page.partName(0), page.partName(1), page.several]).toEqual(['No calculator', 'Section 2', true]);
	});
});

describe('changing a form', () => {
	it('is shown before it is saved, and says when it is', async () => {
		const page = await opened();
		page.add(item('D'));
		expect([shown(page), page.saving]).toEqual(['A0 B0 C0 D0', 'Saving …']);
		await settled();
		expect(page.saving).toBe('Saved');
		expect(page.form?.revision).toBe(2);
		expect(page.outlook).toEqual({ items: 4 });
	});

	it('keeps every item in its part while items move', async () => {
		const page = await opened(form('ABC', [0, 0, 1]));
		page.move(2, 0);
		expect(shown(page)).toBe('C1 A0 B0');
		expect(page.sorted).toBe(false);
		page.byParts();
		expect(shown(page)).toBe('A0 B0 C1');
		expect(page.sorted).toBe(true);
	});

	it.each([
		[0, -1],
		[2, 3],
		[1, 1]
	])('moves nothing from %i to %i', async (from, to) => {
		const page = await opened();
		page.move(from, to);
		await settled();
		expect(shown(page)).toBe('A0 B0 C0');
		expect(stand.sent(ITEMS)).toEqual([]);
	});

	it('puts an item at a place, in the part that stands there', async () => {
		const page = await opened(form('ABC', [0, 1, 1]));
		page.insert(1, item('N'));
		expect(shown(page)).toBe('A0 N1 B1 C1');
		page.insert(4, item('Z'));
		expect(shown(page)).toBe('A0 N1 B1 C1 Z1');
	});

	it('gives an exchanged item the part of the one it replaces', async () => {
		const page = await opened(form('ABC', [0, 1, 1]));
		page.exchange(1, item('N'));
		expect(shown(page)).toBe('A0 N1 C1');
	});

	it('moves to a part that exists, and to no other', async () => {
		const page = await opened();
		page.toPart(0, 1);
		expect(shown(page)).toBe('A1 B0 C0');
		page.toPart(0, 2);
		page.toPart(0, -1);
		expect(shown(page)).toBe('A1 B0 C0');
	});

	it('takes an item off with its part', async () => {
		const page = await opened(form('ABC', [0, 1, 0]));
		page.drop(1);
		expect(shown(page)).toBe('A0 C0');
		await settled();
		expect(stand.sent(ITEMS)).toEqual([{ revision: 1, items: ['A', 'C'], parts: [0, 0] }]);
	});

	it('sends quick changes as one, and never an older one after a later', async () => {
		const page = await opened();
		page.drop(0);
		page.drop(0);
		page.add(item('D'));
		await settled();
		expect(stand.sent(ITEMS)).toEqual([{ revision: 1, items: ['C', 'D'], parts: [0, 0] }]);
		expect(shown(page)).toBe('C0 D0');
	});

	it('carries the revision on where a change is made while one is saved', async () => {
		const page = await opened();
		let answer = () => {};
		const save = stand.replies.get(ITEMS)!;
		stand.on(ITEMS, async (asked) => {
			await new Promise<void>((go) => (answer = go));
			return save(asked);
		});
		page.drop(0);
		await settled();
		page.drop(0); // the first is on its way
		answer();
		await settled();
		answer();
		await settled();
		expect(stand.sent(ITEMS).map((b) => (b as { revision: number }).revision)).toEqual([1, 2]);
		expect([shown(page), page.problem]).toEqual(['C0', '']);
	});

	it('shows what somebody else made of it where both changed it', async () => {
		const page = await opened();
		kept = { ...form('XY'), revision: 5 };
		page.drop(0);
		await settled();
		expect(page.problem).toBe('Not possible: somebody else changed this form');
		expect([shown(page), page.form?.revision, page.saving]).toEqual(['X0 Y0', 5, '']);
	});

	it('fills from a unit only after what was changed before is saved', async () => {
		const page = await opened();
		stand.on('POST /api/building/forms/{form_id}/pool', ({ body }) => {
			expect((body as { revision: number }).revision).toBe(2);
			kept = { ...form('BCUV'), revision: 3 };
			return structuredClone(kept);
		});
		page.drop(0);
		await page.fill('Ratios', false);
		expect([shown(page), page.saving, page.problem]).toEqual(['B0 C0 U0 V0', 'Saved', '']);
	});
});

describe('finding items for it', () => {
	const asked = () =>
		stand.asked.filter((a) => a.route === BANK).map((a) => String(a.given.params?.query?.find).trim());

	it('looks in its subject and grade, and everywhere where there is nothing', async () => {
		stand.on(BANK, ({ params }) => ({ total: String(params?.query?.find).includes('grade:') ? 0 : 2, items: [] }));
		const page = await opened();
		expect(asked()).toEqual([
			'-is:template -state:retired  subject:"Mathematics" grade:6',
			'-is:template -state:retired'
		]);
		expect(page.bank?.total).toBe(2);
	});

	it('looks for a standard wherever it is', async () => {
		const page = await opened();
		page.standard = 'M6.1';
		stand.asked = [];
		await page.search();
		expect(asked()).toEqual(['-is:template -state:retired standard:M6.1']);
	});

	it('drops an answer that a later question overtook', async () => {
		const page = await opened();
		const answers: ((found: unknown) => void)[] = [];
		stand.on(BANK, () => new Promise((answer) => answers.push(answer)));
		page.find = 'r';
		const first = page.search();
		page.find = 'ratio';
		const second = page.search();
		await settled();
		answers[1]?.({ total: 2, items: [] });
		answers[0]?.({ total: 99, items: [] });
		await Promise.all([first, second]);
		expect(page.bank?.total).toBe(2);
	});
});

describe('publishing', () => {
	const PUBLISH = 'POST /api/forms/{form_id}/publish';
	const CHECKS = 'GET /api/building/forms/{form_id}/checks';

	it('opens and shuts what is looked through before', async () => {
		stand.on(CHECKS, () => [{ name: 'Keys', holds: true }]);
		const page = await opened();
		await page.review();
		expect(page.checks).toHaveLength(1);
		await page.review();
		expect(page.checks).toBeNull();
	});

	it('publishes the revision that was saved last', async () => {
		stand.on(PUBLISH, () => ({ ...structuredClone(kept), published_at: '2026-11-27T10:00:00Z' }));
		const page = await opened();
		page.drop(2);
		await page.publish();
		expect(stand.sent(PUBLISH)).toEqual([{ revision: 2 }]);
		expect(page.draft).toBe(false);
	});

	it('stays a draft, with the reason, where the server refuses', async () => {
		stand.on(PUBLISH, () => {
			throw refusal(422, 'item A has no key');
		});
		const page = await opened();
		await page.publish();
		expect([page.problem, page.draft]).toEqual(['Not possible: item A has no key', true]);
	});

	it('has no corrected version where none could be made', async () => {
		stand.on('POST /api/building/forms/{form_id}/correct', () => ({ ids: ['12'] }));
		const page = await opened();
		expect(await page.correct()).toBe('12');
		stand.on('POST /api/building/forms/{form_id}/correct', () => {
			throw refusal(409, 'this form has a newer version');
		});
		expect(await page.correct()).toBeNull();
		expect(page.problem).toContain('newer version');
	});
});
