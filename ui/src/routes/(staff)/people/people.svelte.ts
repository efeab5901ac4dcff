import { goto } from '$app/navigation';
import { page } from '$app/state';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** People of the district, found by name. */
export class PeoplePage {
	constructor(find: string) {
		this.find = find;
	}
	overview = $state<Schemas['PeopleOverview'] | null>(null);
	found = $state<Schemas['PeopleOut'] | null>(null);
	problem = $state('');
	importing = $state(false);
	asked = 0;
	kind = $state('');
	KINDS = [
		['', 'Everyone'],
		['student', 'Students'],
		['staff', 'Staff'],
		['family', 'Families']
	] as const;
	find = $state('');
	most = $derived(Math.max(1, ...(this.overview?.grades ?? []).map((g) => g.students)));

	load = async () => {
		try {
			this.overview = await body(api.GET('/api/people/overview'));
			this.importing = this.importing || (this.overview.students === 0 && staff.may('people.import'));
			await this.search(this.find);
		} catch (error) {
			this.problem = said(error);
		}
	};

	search = async (text: string) => {
		const mine = ++this.asked;
		const answer = await body(
			api.GET('/api/people', { params: { query: { find: text, kind: this.kind, limit: 200 } } })
		);
		if (mine === this.asked) this.found = answer;
	};

	/** Enter opens whoever stands first: two initials and Enter are three keystrokes. */
	open = (event: KeyboardEvent) => {
		const first = this.found?.people[0];
		if (event.key === 'Enter' && first && this.find) void goto(`/people/${first.id}`);
	};

	typed = (event: Event) => {
		const text = (event.target as HTMLInputElement).value;
		this.find = text;
		const url = new URL(page.url);
		if (text) url.searchParams.set('find', text);
		else url.searchParams.delete('find');
		void goto(url, { replaceState: true, keepFocus: true, noScroll: true });
		void this.search(text).catch((error) => (this.problem = said(error)));
	};
}
