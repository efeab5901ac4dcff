import { beforeEach, expect, it, vi } from 'vitest';
import { settled, StandIn } from '../../../../../tests/server';

const server = vi.hoisted(() => ({ api: null as unknown }));
vi.mock('$lib/api/client', async (original) => ({
	...(await original<typeof import('$lib/api/client')>()),
	get api() {
		return server.api;
	}
}));
const went = vi.hoisted(() => [] as string[]);
vi.mock('$app/navigation', () => ({ goto: (to: string) => Promise.resolve(void went.push(to)) }));

const { StudentTestPage } = await import('./test.svelte');
const TEST = 'GET /api/quality/attempts/{sitting}';
const SAY = 'PUT /api/quality/attempts/{sitting}/items/{place}/comment';

let stand: StandIn;
const item = (number: number, gave: string) => ({ place: `${number}0`, number, gave, comments: [] });

beforeEach(() => {
	went.length = 0;
	stand = new StandIn();
	server.api = stand.api;
	stand.on(TEST, () => ({
		items: [item(1, 'right'), item(2, 'wrong'), item(3, 'awaiting')],
		previous: null,
		next: '8'
	}));
});

async function begun(asked = '') {
	const page = new StudentTestPage('7', asked);
	await page.load();
	return page;
}

function press(
	page: InstanceType<typeof StudentTestPage>,
	key: string,
	letters = true,
	on: HTMLElement = document.body
) {
	const event = new KeyboardEvent('keydown', { key });
	Object.defineProperty(event, 'target', { value: on });
	page.key(event, letters);
}

it('opens on the first item that there is something to say about, or on the one asked for', async () => {
	expect((await begun()).open?.number).toBe(2);
	expect((await begun('3')).open?.number).toBe(3);
	expect((await begun('99')).open?.number).toBe(2);
});

it('goes from item to item and stops at the ends', async () => {
	const page = await begun('1');
	press(page, 'ArrowLeft');
	expect(page.open?.number).toBe(1);
	for (let n = 0; n < 5; n++) press(page, 'ArrowRight');
	expect(page.open?.number).toBe(3);
});

it('goes to the same item of the next student, and nowhere where there is none', async () => {
	const page = await begun('3');
	press(page, 'p');
	press(page, 'n', false);
	press(page, 'n', true, document.createElement('input'));
	expect(went).toEqual([]);
	press(page, 'n');
	expect(went).toEqual(['/sessions/tests/8?item=3']);
});

it('keeps a comment with its item', async () => {
	const page = await begun('2');
	const said = [{ by: 'me', mine: true, text: 'Look again.', read_at: null }];
	stand.on(SAY, () => said);
	page.comment = 'Look again.';
	await page.say();
	await settled();
	expect(stand.sent(SAY)).toEqual([{ text: 'Look again.' }]);
	press(page, 'ArrowRight');
	expect(page.comment).toBe('');
	press(page, 'ArrowLeft');
	expect(page.comment).toBe('Look again.');
});
