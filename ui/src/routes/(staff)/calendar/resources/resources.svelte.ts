import { api, body, said, type Schemas } from '$lib/api/client';
import { toasts } from '$lib/design/toasts.svelte';

type Page = Schemas['ResourcesPage'];

/** What a school tests with, as it is being edited: rooms and carts in a grid, bells, hours of staff. */
export class Resources {
	page = $state.raw<Page>({} as Page);
	rooms = $state<Schemas['RoomIn'][]>([]);
	carts = $state<Schemas['CartIn'][]>([]);
	bells = $state<Schemas['BellsIn']>({} as Schemas['BellsIn']);
	problem = $state('');
	busy = $state(false);

	constructor(page: Page) {
		this.show(page);
	}

	show(page: Page) {
		this.page = page;
		this.rooms = structuredClone(page.rooms) as Schemas['RoomIn'][];
		this.carts = structuredClone(page.carts) as Schemas['CartIn'][];
		const minute = (at: string) => at.slice(0, 5);
		this.bells = {
			...page.bells,
			types: page.bells.types.map((t) => ({
				...t,
				blocks: t.blocks.map((b) => ({ ...b, start: minute(b.start), end: minute(b.end) }))
			})),
			pattern: [...page.bells.pattern],
			changes: page.bells.changes.map((c) => ({ ...c }))
		};
	}

	get roomsChanged() {
		return JSON.stringify([this.rooms, this.carts]) !== JSON.stringify([this.page.rooms, this.page.carts]);
	}

	/** Rows copied from a spreadsheet: name, seats and devices. */
	paste(text: string): boolean {
		const rows = text
			.split(/\r?\n/)
			.map((line) => line.split('\t'))
			.filter((cells) => cells.length > 1 && cells[0]?.trim());
		if (!rows.length) return false;
		for (const [name = '', seats = '', devices = ''] of rows) {
			const old = this.rooms.find((r) => r.name.trim() === name.trim());
			const read = { seats: Number(seats) || 0, devices: Number(devices) || 0 };
			if (old) Object.assign(old, read);
			else this.rooms.push({ id: null, name: name.trim(), ...read, shared: true });
		}
		return true;
	}

	async #save(work: () => Promise<Page>, says: string) {
		this.busy = true;
		this.problem = '';
		try {
			this.show(await work());
			toasts.say(says);
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = false;
	}

	saveRooms() {
		const path = { school: this.page.school };
		const sent = { rooms: $state.snapshot(this.rooms), carts: $state.snapshot(this.carts) };
		return this.#save(
			() => body(api.PUT('/api/planning/schools/{school}/rooms', { params: { path }, body: sent })),
			'Rooms and carts saved.'
		);
	}

	saveBells() {
		const path = { school: this.page.school };
		const sent = $state.snapshot(this.bells) as Schemas['BellsIn'];
		return this.#save(
			() => body(api.PUT('/api/planning/schools/{school}/bells', { params: { path }, body: sent })),
			'Bell schedules saved.'
		);
	}

	saveStaff(person: string, sent: Schemas['StaffHoursIn']) {
		return this.#save(async () => {
			await api.PUT('/api/planning/staff/{person}', { params: { path: { person } }, body: sent });
			const query = { school: this.page.school };
			return body(api.GET('/api/planning/resources', { params: { query } }));
		}, 'Hours saved.');
	}
}
