import { beforeEach, expect, it, vi } from 'vitest';
import { refusal, StandIn } from '../../../../../tests/server';

const server = vi.hoisted(() => ({ api: null as unknown }));
vi.mock('$lib/api/client', async (original) => ({
	...(await original<typeof import('$lib/api/client')>()),
	get api() {
		return server.api;
	}
}));

const { Releasing } = await import('./releasing.svelte');
const PAGE = 'GET /api/releases/forms/{form}';
const RELEASE = 'POST /api/releases';
const HOLD = 'PUT /api/releases/attempts/{sitting}/hold';

let stand: StandIn;
let ahead = 0;
beforeEach(() => {
	ahead = 0;
	stand = new StandIn();
	server.api = stand.api;
	stand.on(PAGE, () => ({
		still_to_take: ahead,
		sessions: [
			{ session_id: '1', closed: true },
			{ session_id: '2', closed: false }
		],
		attempts: [{ sitting: '7' }, { sitting: '8' }]
	}));
	stand.on(RELEASE, () => ({ says: '24 results of 1 class went out to students.' }));
	stand.on(HOLD, () => null);
});

async function begun() {
	const page = new Releasing('3', '4');
	await page.load();
	return page;
}

it('begins with every closed class, and with right answers only where no one is still to take the test', async () => {
	const page = await begun();
	expect(page.sessions).toEqual(['1']);
	expect(page.shows).toContain('right');
	ahead = 2;
	expect((await begun()).shows).toEqual(['points', 'answers', 'comments']);
});

it('leaves out what is shown beside own answers where these are not shown', async () => {
	const page = await begun();
	page.show(['points', 'right', 'solutions', 'comments']);
	expect(page.shows).toEqual(['points']);
	page.show(['points', 'answers', 'right']);
	expect(page.shows).toEqual(['points', 'answers', 'right']);
});

it('is ready with a class, an audience, something to show, and a day where it is later', async () => {
	const page = await begun();
	expect(page.ready).toBe(true);
	page.later = true;
	expect(page.ready).toBe(false);
	page.day = '2026-12-01';
	expect(page.ready).toBe(true);
	page.audiences = [];
	expect(page.ready).toBe(false);
});

it('sends the day as a day, and nothing where it is now', async () => {
	const page = await begun();
	await page.release();
	[page.later, page.day] = [true, '2026-12-01'];
	await page.release();
	expect(stand.sent(RELEASE).map((sent) => (sent as { day: string | null }).day)).toEqual([null, '2026-12-01']);
	expect(page.done).toContain('went out');
});

it('asks before right answers go out while others are to take the test', async () => {
	const page = await begun();
	stand.on(RELEASE, () => Promise.reject(refusal(409, 'Mathematics 6.2 still to take this test: release points')));
	await page.release();
	expect([page.asked.includes('still to take this test'), page.problem]).toEqual([true, '']);
	stand.on(RELEASE, () => ({ says: 'Done.' }));
	await page.release(true);
	expect([page.asked, (stand.sent(RELEASE)[1] as { despite: boolean }).despite]).toEqual(['', true]);
});

it('goes on to another student once one is held back', async () => {
	const page = await begun();
	expect(page.attempt).toBe('7');
	stand.on(PAGE, () => ({ still_to_take: 0, sessions: [], attempts: [{ sitting: '8' }] }));
	await page.hold('7', 'Later.');
	expect(page.attempt).toBe('8');
	expect(stand.sent(HOLD)).toEqual([{ why: 'Later.' }]);
});
