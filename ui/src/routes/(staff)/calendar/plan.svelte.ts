import { api, body, said, type Schemas } from '$lib/api/client';
import { toasts } from '$lib/design/toasts.svelte';

type Board = Schemas['BoardPage'];
type Session = Schemas['BoardSession'];
type Move = Partial<Schemas['MoveIn']> & Pick<Schemas['MoveIn'], 'kind'>;
export type Rows = 'rooms' | 'people' | 'classes';

/** A window's plan as somebody works on it: what is chosen, what is being moved, how far the planner is. */
export class Plan {
	board = $state.raw<Board>({} as Board);
	problem = $state('');
	rows = $state<Rows>('rooms');
	week = $state(0);
	/** All rooms, also those that are not used in the week. */
	every = $state(false);
	chosen = $state<number | null>(null);
	/** The session on its way by keys, and the cell it would land in. */
	carried = $state<{ id: number; slot: number; row: string } | null>(null);
	working = $state<{ what: string; done: number; total: number } | null>(null);
	ways = $state.raw<Schemas['WayOutLine'][] | null>(null);
	looking = $state(false);
	#job = '';

	constructor(board: Board) {
		this.board = board;
		this.week = this.firstWeek();
	}

	get id() {
		return this.board.plan ?? '';
	}

	get session(): Session | null {
		return this.board.sessions.find((s) => s.number === this.chosen) ?? null;
	}

	/** Days of the weeks that the window has, each week on its own. */
	get weeks(): Schemas['BoardDay'][][] {
		const found = new Map<string, Schemas['BoardDay'][]>();
		for (const day of this.board.days) {
			const date = new Date(`${day.day}T12:00:00Z`);
			date.setUTCDate(date.getUTCDate() - ((date.getUTCDay() + 6) % 7));
			const monday = date.toISOString().slice(0, 10);
			found.set(monday, [...(found.get(monday) ?? []), day]);
		}
		return [...found.values()];
	}

	/** The week in which the first session is that does not lie behind. */
	firstWeek(): number {
		const first = this.board.sessions.find((s) => !this.board.blocks[s.slot]?.past)?.slot ?? 0;
		const at = this.weeks.findIndex((week) => week.some((d) => d.first <= first && first < d.first + d.count));
		return Math.max(0, at);
	}

	/** What stands in which row of the board. */
	rowOf(session: Session): string {
		if (this.rows === 'rooms') return session.room;
		if (this.rows === 'people') return session.proctor === '0' ? '' : session.proctor_name;
		return session.apart ? 'Apart' : [...new Set(session.lists.map((l) => l.klass))].join(', ');
	}

	show(board: Board) {
		const anew = board.plan !== this.board.plan || board.window !== this.board.window;
		this.board = board;
		if (this.chosen !== null && !board.sessions.some((s) => s.number === this.chosen)) this.chosen = null;
		if (anew || this.week >= this.weeks.length) this.week = this.firstWeek();
		this.ways = null;
	}

	async #do(work: () => Promise<Board>): Promise<boolean> {
		this.problem = '';
		try {
			this.show(await work());
			return true;
		} catch (error) {
			this.problem = said(error);
			return false;
		}
	}

	move(move: Move) {
		const path = { plan: this.id };
		const none = { session: 0, proctor: '0', students: [], key: '' };
		const sent = { ...none, ...move, revision: this.board.revision };
		return this.#do(() => body(api.POST('/api/planning/plans/{plan}/moves', { params: { path }, body: sent })));
	}

	undo(redo: boolean) {
		const path = { plan: this.id };
		const sent = { revision: this.board.revision, redo };
		return this.#do(() => body(api.POST('/api/planning/plans/{plan}/undo', { params: { path }, body: sent })));
	}

	async publish() {
		const count = this.board.change_count;
		const path = { plan: this.id };
		const sent = { revision: this.board.revision };
		const done = await this.#long(() =>
			body(api.POST('/api/planning/plans/{plan}/publish', { params: { path }, body: sent }))
		);
		if (done) toasts.say(`${count} ${count === 1 ? 'session' : 'sessions'} published.`);
	}

	make(wishes: Schemas['WishesIn'], again: boolean) {
		const path = { window: this.board.window, school: this.board.school };
		return this.#long((job) =>
			body(
				api.POST('/api/planning/windows/{window}/schools/{school}/plan', {
					params: { path },
					body: { wishes, again, job }
				})
			)
		);
	}

	/** Back to an earlier plan; the one on the board is kept among the earlier ones. */
	restore(version: string) {
		const path = { plan: this.id, version };
		const sent = { revision: this.board.revision };
		return this.#do(() =>
			body(api.POST('/api/planning/plans/{plan}/versions/{version}/restore', { params: { path }, body: sent }))
		);
	}

	openChoosing(wishes: Schemas['WishesIn'], until: string) {
		const path = { window: this.board.window, school: this.board.school };
		return this.#do(() =>
			body(
				api.POST('/api/planning/windows/{window}/schools/{school}/choosing', {
					params: { path },
					body: { wishes, until }
				})
			)
		);
	}

	closeChoosing() {
		const path = { plan: this.id };
		return this.#do(() => body(api.DELETE('/api/planning/plans/{plan}/choosing', { params: { path } })));
	}

	async remind() {
		const path = { plan: this.id };
		const n = this.board.choosing?.waiting.length ?? 0;
		const done = await this.#do(() => body(api.POST('/api/planning/plans/{plan}/remind', { params: { path } })));
		if (done) toasts.say(`${n} ${n === 1 ? 'teacher' : 'teachers'} reminded.`);
	}

	/** Whether nobody tests in a block. */
	block(slot: number, on: boolean) {
		const path = { plan: this.id };
		const sent = { revision: this.board.revision, slot, on };
		return this.#do(() => body(api.POST('/api/planning/plans/{plan}/blocked', { params: { path }, body: sent })));
	}

	/** Place what has no block yet, and leave the rest where it is. */
	fillIn() {
		return this.make(this.board.wishes as Schemas['WishesIn'], true);
	}

	async lookForWays() {
		this.looking = true;
		try {
			this.ways = await body(api.GET('/api/planning/plans/{plan}/ways', { params: { path: { plan: this.id } } }));
		} catch (error) {
			this.problem = said(error);
		}
		this.looking = false;
	}

	takeWay(way: string) {
		const path = { plan: this.id };
		const sent = (job: string) => ({ way: way as Schemas['WayIn']['way'], job });
		return this.#long((job) =>
			body(api.POST('/api/planning/plans/{plan}/ways', { params: { path }, body: sent(job) }))
		);
	}

	/** A room is lost from one day to another: whoever tests in it is planned elsewhere. */
	async closeRoom(room: string, first: string, last: string) {
		const path = { plan: this.id };
		const sent = { revision: this.board.revision, room, first, last };
		const done = await this.#long((job) =>
			body(api.POST('/api/planning/plans/{plan}/closings', { params: { path }, body: { ...sent, job } }))
		);
		const n = this.board.change_count;
		if (done) toasts.say(`${room} is closed. Changes to publish: ${n}.`);
	}

	reopenRoom(closing: string) {
		const path = { plan: this.id, closing };
		return this.#do(() => body(api.DELETE('/api/planning/plans/{plan}/closings/{closing}', { params: { path } })));
	}

	/** Work that tells how far it is; stopped, it answers with the best plan so far. */
	async #long(work: (job: string) => Promise<Board>): Promise<boolean> {
		this.#job = crypto.randomUUID();
		this.working = { what: '', done: 0, total: 0 };
		const watch = setInterval(() => void this.#look(), 500);
		try {
			return await this.#do(() => work(this.#job));
		} finally {
			clearInterval(watch);
			this.working = null;
		}
	}

	async #look() {
		try {
			const path = { job: this.#job };
			const job = await body(api.GET('/api/planning/jobs/{job}', { params: { path } }));
			if (this.working) this.working = { what: job.what, done: job.done, total: job.total };
		} catch {
			/* it is over, or has not begun */
		}
	}

	async stop() {
		try {
			await api.DELETE('/api/planning/jobs/{job}', { params: { path: { job: this.#job } } });
		} catch {
			/* it is over */
		}
	}

	/** By keys: take a session up, carry it over the board, put it down. */
	carry(id: number, rows: string[]) {
		const session = this.board.sessions.find((s) => s.number === id);
		if (session) this.carried = { id, slot: session.slot, row: this.rowOf(session) || (rows[0] ?? '') };
	}

	step(key: string, rows: string[]) {
		if (!this.carried) return;
		const days = this.weeks[this.week] ?? [];
		const first = days[0]?.first ?? 0;
		const last = first + days.reduce((n, d) => n + d.count, 0) - 1;
		let { slot, row } = this.carried;
		if (key === 'ArrowLeft') slot = Math.max(first, slot - 1);
		if (key === 'ArrowRight') slot = Math.min(last, slot + 1);
		const at = rows.indexOf(row);
		if (key === 'ArrowUp') row = rows[Math.max(0, at - 1)] ?? row;
		if (key === 'ArrowDown') row = rows[Math.min(rows.length - 1, at + 1)] ?? row;
		this.carried = { ...this.carried, slot, row };
	}

	async drop(id: number, slot: number, row: string) {
		this.carried = null;
		const session = this.board.sessions.find((s) => s.number === id);
		if (!session) return;
		if (this.rows === 'people') {
			const person = this.board.people.find((p) => p.name === row)?.id ?? '0';
			if (slot !== session.slot && !(await this.move({ kind: 'move', session: id, slot }))) return;
			if (person !== session.proctor) await this.move({ kind: 'proctor', session: id, proctor: person });
			return;
		}
		const room = this.rows === 'rooms' ? row : session.room;
		if (slot === session.slot && room === session.room) return;
		await this.move({ kind: 'move', session: id, slot, room });
	}
}
