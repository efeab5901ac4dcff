import type { Schemas } from '$lib/api/client';
import { address } from './address.svelte';

export type Item = Schemas['ItemFigures'];
export const ORDERS = ['look', 'place', 'standard', 'p', 'r', 'kind', 'alpha', 'omitted'] as const;
export type Order = (typeof ORDERS)[number];
export const GROUPS = ['standard', 'depth', 'kind', 'part'] as const;
export type Group = (typeof GROUPS)[number];

const weight = (i: Item) =>
	i.flags.some((f) => f.weight === 'problem') ? 0 : i.flags.some((f) => f.weight === 'look') ? 1 : 2;
const BY: Record<Order, (a: Item, b: Item) => number> = {
	look: (a, b) => weight(a) - weight(b) || (weight(a) === 2 ? a.number - b.number : (a.r_rest ?? 0) - (b.r_rest ?? 0)),
	place: (a, b) => a.number - b.number,
	standard: (a, b) => (a.standards[0] ?? '~').localeCompare(b.standards[0] ?? '~') || a.number - b.number,
	p: (a, b) => (a.p ?? 2) - (b.p ?? 2),
	r: (a, b) => (a.r_rest ?? 2) - (b.r_rest ?? 2),
	kind: (a, b) => a.kind.localeCompare(b.kind) || a.number - b.number,
	alpha: (a, b) => (b.alpha_without ?? -2) - (a.alpha_without ?? -2),
	omitted: (a, b) => b.n_omitted + b.n_not_reached - (a.n_omitted + a.n_not_reached)
};

/** How the items of the overview are ordered, grouped and filtered, as the address says it. */
class View {
	get order(): Order {
		const said = address.get('order') as Order | null;
		return said && ORDERS.includes(said) ? said : 'look';
	}

	get group(): Group | null {
		const said = address.get('by') as Group | null;
		return said && GROUPS.includes(said) ? said : null;
	}

	get flaggedOnly() {
		return address.get('only') === 'look';
	}

	sorted(items: Item[]): Item[] {
		const kept = items.filter((i) => !this.flaggedOnly || i.sound === false);
		const found = kept.toSorted(BY[this.order]);
		return address.get('down') ? found.reverse() : found;
	}

	/** What an item stands under where items are grouped. */
	under(item: Item): string {
		if (this.group === 'standard') return item.standards[0] ?? 'not set';
		if (this.group === 'depth') return item.depth === null ? 'not set' : `depth ${item.depth}`;
		return this.group === 'kind' ? item.kind : item.part;
	}
}

export const view = new View();
