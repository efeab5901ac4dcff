import { goto } from '$app/navigation';
import { page } from '$app/state';

/** What is looked at, as the address says it: it goes with every question that is asked, and from page to page. */
const MANY = ['form', 'window', 'session', 'school', 'grade', 'class', 'group', 'student', 'limit'] as const;
const ONE = ['since', 'until', 'line', 'regular'] as const;
type Many = (typeof MANY)[number];
export type ScopeQuery = Partial<Record<Many, string[]>> & {
	since?: string;
	until?: string;
	line?: number;
	regular?: boolean;
};

class Address {
	#going: URL | null = null;

	/** Changes exactly when what is looked at does; an order or an opened item is not part of it. */
	key = $derived(JSON.stringify(read(page.url.searchParams)));
	scope = $derived(JSON.parse(this.key) as ScopeQuery);

	get(name: string) {
		return page.url.searchParams.get(name);
	}

	all(name: string) {
		return page.url.searchParams.getAll(name);
	}

	/** Another page of the workbench with the same scope. */
	href(path: string, more: Record<string, string | null> = {}) {
		const url = new URL(path, page.url);
		for (const name of [...MANY, ...ONE])
			for (const value of page.url.searchParams.getAll(name)) url.searchParams.append(name, value);
		for (const [name, value] of Object.entries(more)) {
			url.searchParams.delete(name);
			if (value !== null) url.searchParams.append(name, value);
		}
		return url.pathname + url.search;
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

	toggle(name: Many, value: string) {
		const now = this.all(name);
		return this.set({ [name]: now.includes(value) ? now.filter((v) => v !== value) : [...now, value] });
	}
}

function read(from: URLSearchParams): ScopeQuery {
	const query: ScopeQuery = {};
	for (const name of MANY) {
		const values = from.getAll(name);
		if (values.length) query[name] = values;
	}
	for (const name of ['since', 'until'] as const) {
		const value = from.get(name);
		if (value) query[name] = value;
	}
	if (from.get('regular')) query.regular = true;
	const line = Number(from.get('line') ?? '');
	if (from.get('line') && Number.isFinite(line)) query.line = Math.min(1, Math.max(0, line / 100));
	return query;
}

export const address = new Address();
