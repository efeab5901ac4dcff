import { goto } from '$app/navigation';
import { page } from '$app/state';
import { api, body, type Schemas } from '$lib/api/client';

export type Item = Schemas['ItemFigures'];
export type Order = 'look' | 'place' | 'p' | 'r';

/** The view as the address states it, and the calls that depend on it. */
class View {
	data = $state<Schemas['QualityOut'] | null>(null);

	get scope() {
		const query = page.url.searchParams;
		const line = Number(query.get('line') ?? '60') / 100;
		return {
			path: { form_id: page.params.form ?? '', window_id: page.params.window ?? '' },
			query: { sessions: query.getAll('sessions'), watch_line: Number.isFinite(line) ? Math.min(1, Math.max(0, line)) : 0.6 }
		};
	}

	get order(): Order {
		const order = page.url.searchParams.get('order');
		return order === 'place' || order === 'p' || order === 'r' ? order : 'look';
	}

	get flaggedOnly() {
		return page.url.searchParams.get('only') === 'look';
	}

	get figure() {
		return page.url.searchParams.get('figure');
	}

	/** The chosen item: the one in the address, else (unless a figure is open) the first that wants a look. */
	get item(): Item | null {
		const code = page.url.searchParams.get('item');
		if (code) return this.data?.items.find((i) => i.item === code) ?? null;
		return this.figure ? null : (this.sorted[0] ?? null);
	}

	get sorted(): Item[] {
		const items = (this.data?.items ?? []).filter((i) => !this.flaggedOnly || i.sound === false);
		const weight = (i: Item) => (i.flags.some((f) => f.weight === 'problem') ? 0 : i.flags.some((f) => f.weight === 'look') ? 1 : 2);
		const by: Record<Order, (a: Item, b: Item) => number> = {
			look: (a, b) => weight(a) - weight(b) || (weight(a) === 2 ? a.number - b.number : (a.r_rest ?? 0) - (b.r_rest ?? 0)),
			place: (a, b) => a.number - b.number,
			p: (a, b) => (a.p ?? 2) - (b.p ?? 2),
			r: (a, b) => (a.r_rest ?? 2) - (b.r_rest ?? 2)
		};
		return items.toSorted(by[this.order]);
	}

	#asked = 0;
	#going: URL | null = null;

	/** An answer that a later question has overtaken is dropped. */
	async load() {
		const { path, query } = this.scope;
		const mine = ++this.#asked;
		const data = await body(api.GET('/api/quality/{form_id}/{window_id}', { params: { path, query } }));
		if (mine === this.#asked) this.data = data;
	}

	set(changes: Record<string, string | string[] | null>) {
		// on top of a change that is still on its way, not beside it
		const url = new URL(this.#going ?? page.url);
		for (const [name, value] of Object.entries(changes)) {
			url.searchParams.delete(name);
			for (const one of Array.isArray(value) ? value : value ? [value] : []) url.searchParams.append(name, one);
		}
		this.#going = url;
		return goto(url, { keepFocus: true, noScroll: true }).finally(() => {
			if (this.#going === url) this.#going = null;
		});
	}
}

export const view = new View();
