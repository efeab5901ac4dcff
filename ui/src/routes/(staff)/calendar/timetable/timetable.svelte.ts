import { api, body, said, type Schemas } from '$lib/api/client';
import { toasts } from '$lib/design/toasts.svelte';

type Page = Schemas['Timetable'];

/** The blocks of each class, as they are being edited; only classes that changed are saved. */
export class Times {
	page = $state.raw<Page>({} as Page);
	meets = $state<Record<string, string[]>>({});
	problem = $state('');
	busy = $state(false);

	constructor(page: Page) {
		this.show(page);
	}

	show(page: Page) {
		this.page = page;
		this.meets = Object.fromEntries(page.lines.map((line) => [line.klass, [...line.meets]]));
	}

	/** Kinds of day with their blocks, in order. */
	get days() {
		const found: { name: string; blocks: { value: string; label: string }[] }[] = [];
		for (const block of this.page.blocks) {
			if (found.at(-1)?.name !== block.day) found.push({ name: block.day, blocks: [] });
			found.at(-1)!.blocks.push({ value: block.id, label: block.name });
		}
		return found;
	}

	/** The blocks of one kind of day of a class. */
	of(klass: string, day: string): string[] {
		const ids = new Set(this.page.blocks.filter((b) => b.day === day).map((b) => b.id));
		return (this.meets[klass] ?? []).filter((id) => ids.has(id));
	}

	set(klass: string, day: string, blocks: string[]) {
		const ids = new Set(this.page.blocks.filter((b) => b.day === day).map((b) => b.id));
		this.meets[klass] = [...(this.meets[klass] ?? []).filter((id) => !ids.has(id)), ...blocks];
	}

	get changed(): Schemas['ClassTimesIn'][] {
		const same = (a: string[], b: string[]) => [...a].sort().join() === [...b].sort().join();
		return this.page.lines
			.filter((line) => !same(line.meets, this.meets[line.klass] ?? []))
			.map((line) => ({ klass: line.klass, meets: [...(this.meets[line.klass] ?? [])] }));
	}

	async save() {
		this.busy = true;
		this.problem = '';
		try {
			const path = { school: this.page.school };
			const lines = this.changed;
			this.show(await body(api.PUT('/api/planning/schools/{school}/timetable', { params: { path }, body: { lines } })));
			toasts.say('Timetable saved.');
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = false;
	}
}
