import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** The log. */
export class LogPage {
	constructor(readonly url: URL) {}
	/** What was changed, by whom, when and why. */
	lines = $state<Schemas['LogLine'][]>([]);
	total = $state(0);
	problem = $state('');
	asked = 0;
	zone = $derived(staff.calendar?.zone ?? 'UTC');

	load = async (before?: string) => {
		const mine = ++this.asked;
		try {
			const find = this.url.searchParams.get('find') ?? '';
			const answer = await body(api.GET('/api/people/log', { params: { query: { find, before } } }));
			if (mine !== this.asked) return;
			this.lines = before ? [...this.lines, ...answer.lines] : answer.lines;
			this.total = answer.total;
		} catch (error) {
			this.problem = said(error);
		}
	};

	typed = async (event: Event) => {
		const url = new URL(this.url);
		url.searchParams.set('find', (event.target as HTMLInputElement).value);
		await goto(url, { replaceState: true, keepFocus: true, noScroll: true });
		await this.load();
	};
}
