import { goto } from '$app/navigation';
import { page } from '$app/state';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import { day } from '$lib/words/show';
import { withValue } from './line';

/** Items of the bank, found by a line, and what is done with them. */
export class BankPage {
	constructor(query: URLSearchParams) {
		this.query = query;
	}
	overview = $state<Schemas['BankOverview'] | null>(null);
	fields = $state<Schemas['Fields'] | null>(null);
	found = $state<Schemas['BankOut'] | null>(null);
	problem = $state('');
	/** What the line itself says that is not understood. */
	wrong = $state('');
	panel = $state<'' | 'in' | 'out' | 'new' | 'tags' | 'narrow'>('');
	marked = $state<string[]>([]);
	typed = $state('');
	asked = 0;
	many = $state(60);
	timer: ReturnType<typeof setTimeout> | undefined;
	monthOf = (iso: string) => day(iso).replace(/^\d+ /, '');
	query = $state.raw(new URLSearchParams());
	line = $derived(this.query.get('find') ?? '');
	order = $derived(this.query.get('order') ?? 'code');
	chosen = $derived(
		this.found?.items.find((f) => f.item.code === this.query.get('item')) ?? this.found?.items[0] ?? null
	);
	texts = $derived(new Map((this.overview?.standards ?? []).map((s) => [s.code, s.text])));
	kinds = $derived(new Map((this.fields?.kinds ?? []).map((k) => [k.name, String(k.value)])));
	narrowed = $derived(this.line.split(/\s+/).filter((w) => /[:<>]/.test(w)).length);

	begin = async () => {
		this.typed = this.line;
		try {
			[this.overview, this.fields] = await Promise.all([
				body(api.GET('/api/bank/overview')),
				body(api.GET('/api/bank/fields'))
			]);
			if (this.overview.standards.every((s) => s.items === 0) && staff.may('bank.keep')) this.panel = 'in';
			await this.search();
		} catch (error) {
			this.problem = said(error);
		}
	};

	load = async () => {
		this.overview = await body(api.GET('/api/bank/overview'));
		await this.search();
	};

	search = async () => {
		const mine = ++this.asked;
		try {
			const answer = await body(
				api.GET('/api/bank/items', { params: { query: { find: this.line, order: this.order, limit: this.many } } })
			);
			if (mine !== this.asked) return;
			this.found = answer;
			this.wrong = '';
			this.marked = this.marked.filter((id) => answer.items.some((f) => f.item.item_id === id));
		} catch (error) {
			if (mine === this.asked) this.wrong = said(error);
		}
	};

	go = async (values: Record<string, string>, again = true) => {
		const url = new URL(page.url);
		for (const [name, value] of Object.entries(values)) {
			if (value) url.searchParams.set(name, value);
			else url.searchParams.delete(name);
		}
		if (again) url.searchParams.delete('item');
		await goto(url, { replaceState: true, keepFocus: true, noScroll: true });
		this.query = url.searchParams;
		if (again) await this.search();
	};

	look = (text: string) => {
		this.typed = text;
		clearTimeout(this.timer);
		this.timer = setTimeout(() => void this.go({ find: text.trim() }), 120);
	};
	narrow = (field: string, value: string, sign = ':') => this.look(withValue(this.typed, field, value, sign));
	toggle = (name: BankPage['panel']) => (this.panel = this.panel === name ? '' : name);
	mark = (id: string) =>
		(this.marked = this.marked.includes(id) ? this.marked.filter((m) => m !== id) : [...this.marked, id]);
}
