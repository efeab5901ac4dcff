import type { Schemas } from '$lib/api/client';
import { address } from '../address.svelte';

type Data = Schemas['GridOut'];
export const ROW_ORDERS = [
	['score', 'score'],
	['class', 'class and score'],
	['name', 'name'],
	['fit', 'unusual patterns first'],
	['blank', 'most omitted']
] as const;
export const COLUMN_ORDERS = [
	['place', 'place on the form'],
	['p', 'hardest first'],
	['easy', 'easiest first'],
	['standard', 'standard'],
	['surprise', 'most unexpected first']
] as const;

/** Orders of students and items by what the server says of them; nothing is computed here but places. */
export class Answers {
	data: Data;
	/** By item: each student's answer, 0 to 3 a state, 4 and more the place among the labels. */
	codes: Uint16Array[];
	/** By item: the hue of each label, by place among the options or by how often it was given. */
	hues: number[][];
	unexpected: Set<number>[];

	constructor(data: Data) {
		this.data = data;
		this.codes = data.items.map((item) => {
			const bytes = Uint8Array.from(atob(item.codes), (sign) => sign.charCodeAt(0));
			return new Uint16Array(bytes.buffer);
		});
		this.hues = data.items.map((item, i) => {
			if (item.letters) return item.labels.map((_, at) => at);
			const n = item.labels.map(() => 0);
			for (const code of this.codes[i] ?? []) if (code >= 4) n[code - 4] = (n[code - 4] ?? 0) + 1;
			const wrong = item.labels
				.map((_, at) => at)
				.filter((at) => (item.labels[at]?.share ?? 0) < 1)
				.toSorted((a, b) => (n[b] ?? 0) - (n[a] ?? 0));
			const hue = item.labels.map(() => -1);
			wrong.slice(0, 5).forEach((at, place) => {
				if ((n[at] ?? 0) > 1) hue[at] = place;
			});
			return hue;
		});
		this.unexpected = data.students.map((s) => new Set(s.unexpected));
	}

	get rowOrder() {
		const said = address.get('rows');
		return ROW_ORDERS.find(([name]) => name === said)?.[0] ?? 'score';
	}
	get columnOrder() {
		const said = address.get('items');
		return COLUMN_ORDERS.find(([name]) => name === said)?.[0] ?? 'place';
	}

	rows = $derived.by(() => {
		const s = this.data.students;
		const score = (a: number, b: number) => (s[b]?.share ?? -1) - (s[a]?.share ?? -1) || a - b;
		const by: Record<string, (a: number, b: number) => number> = {
			score,
			class: (a, b) => (s[a]?.klass ?? '').localeCompare(s[b]?.klass ?? '') || score(a, b),
			name: (a, b) => last(s[a]?.name ?? '').localeCompare(last(s[b]?.name ?? '')),
			fit: (a, b) => (s[a]?.fit ?? 0) - (s[b]?.fit ?? 0),
			blank: (a, b) => blank(s[b]) - blank(s[a]) || score(a, b)
		};
		const item = address.get('sort'); // by what was done with one item
		const at = item ? this.data.items.findIndex((i) => i.item === item) : -1;
		const rank =
			at >= 0 ? (a: number, b: number) => this.#place(at, b) - this.#place(at, a) || score(a, b) : by[this.rowOrder];
		return s.map((_, at) => at).sort(rank);
	});

	columns = $derived.by(() => {
		const items = this.data.items;
		const by: Record<string, (a: number, b: number) => number> = {
			place: (a, b) => (items[a]?.number ?? 0) - (items[b]?.number ?? 0),
			p: (a, b) => (items[a]?.p ?? 2) - (items[b]?.p ?? 2),
			easy: (a, b) => (items[b]?.p ?? -1) - (items[a]?.p ?? -1),
			standard: (a, b) => (items[a]?.standards[0] ?? '~').localeCompare(items[b]?.standards[0] ?? '~') || a - b,
			surprise: (a, b) => (items[b]?.surprises ?? 0) - (items[a]?.surprises ?? 0)
		};
		return items.map((_, at) => at).sort(by[this.columnOrder]);
	});

	code(student: number, item: number): number {
		return this.codes[item]?.[student] ?? 0;
	}

	/** Right above wrong, wrong answers by kind, then what was left open. */
	#place(item: number, student: number): number {
		const code = this.code(student, item);
		if (code < 4) return -code - 1;
		const share = this.data.items[item]?.labels[code - 4]?.share ?? 0;
		return share > 0 ? 1000 + share : 999 - code;
	}

	/** A cell in words, for whoever cannot see it and for the copy. */
	text(student: number, item: number): string {
		const column = this.data.items[item];
		const code = this.code(student, item);
		if (!column) return '';
		if (code < 4) return ['omitted', 'not reached', 'not presented', 'awaits its score'][code] ?? '';
		return column.labels[code - 4]?.text ?? '';
	}

	says(student: number, item: number): string {
		const s = this.data.students[student];
		const column = this.data.items[item];
		if (!s || !column) return '';
		const code = this.code(student, item);
		const share = code < 4 ? null : (column.labels[code - 4]?.share ?? 0);
		const what =
			share === null
				? this.text(student, item)
				: `${this.text(student, item)}, ${share >= 1 ? 'right' : share > 0 ? `${Math.round(share * 100)}% of the points` : 'wrong'}`;
		return `item ${column.number}: ${what}${this.unexpected[student]?.has(item) ? ', unexpected' : ''}`;
	}
}

const last = (name: string) => name.split(' ').slice(-1)[0] + name;
const blank = (s: Schemas['GridStudent'] | undefined) => (s?.omitted ?? 0) + (s?.not_reached ?? 0);
