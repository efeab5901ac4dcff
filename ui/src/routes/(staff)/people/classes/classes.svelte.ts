import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';

/** Classes of a year. */
export class ClassesPage {
	constructor(readonly url: URL) {}
	/** Classes of a year: how full they are, and in how many of their students have ever signed in. */
	data = $state<Schemas['ClassesOut'] | null>(null);
	problem = $state('');
	subject = $state('');
	chosen = $state<string[]>([]);
	asked = 0;
	subjects = $derived([...new Set((this.data?.classes ?? []).map((c) => c.subject || 'Homeroom'))]);
	shown = $derived(
		(this.data?.classes ?? []).filter((c) => !this.subject || (c.subject || 'Homeroom') === this.subject)
	);
	most = $derived(Math.max(1, ...(this.data?.classes ?? []).map((c) => c.students)));
	pick = (id: string) => {
		this.chosen = this.chosen.includes(id) ? this.chosen.filter((c) => c !== id) : [...this.chosen, id];
	};
	ids = $derived(this.chosen.map((id) => `ids=${id}`).join('&'));

	load = async () => {
		const mine = ++this.asked;
		const year = this.url.searchParams.get('year') ?? undefined;
		try {
			const answer = await body(api.GET('/api/classes', { params: { query: { year } } }));
			if (mine === this.asked) this.data = answer;
		} catch (error) {
			this.problem = said(error);
		}
	};

	choose = async (year: string) => {
		await goto(`?year=${year}`, { keepFocus: true });
		this.chosen = [];
		await this.load();
	};
}
