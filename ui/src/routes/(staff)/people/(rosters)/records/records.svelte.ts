import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';
import { follow, newJob } from '$lib/parts/imports';
import { staff } from '$lib/state/staff.svelte';

/** The records system that is followed. */
export class RecordsPage {
	constructor(readonly url: URL) {}
	/** The school's records system: what changed at each look, and what waits for a decision. */
	data = $state<Schemas['RecordsPage'] | null>(null);
	problem = $state('');
	busy = $state(false);
	progress = $state<Schemas['JobOut'] | null>(null);
	zone = $derived(staff.calendar?.zone ?? 'UTC');
	waiting = $derived(this.data?.runs.find((r) => r.state === 'waiting'));
	WORDS: Record<string, string> = {
		done: 'taken',
		taken: 'taken after all',
		waiting: 'waits',
		left: 'left',
		failed: 'failed'
	};
	height = (n: number) => (n ? Math.min(44, 6 + Math.sqrt(n) * 4) : 1);

	load = async () => {
		const run = this.url.searchParams.get('run') ?? undefined;
		try {
			this.data = await body(api.GET('/api/records', { params: { query: { run } } }));
		} catch (error) {
			this.problem = said(error);
		}
	};

	look = async (bulk: boolean) => {
		this.busy = true;
		this.problem = '';
		const job = newJob();
		const stop = follow(job, (p) => (this.progress = p));
		try {
			await api.POST('/api/records/look', { params: { query: { job } }, body: { bulk } });
			await goto('/people/records', { replaceState: true });
		} catch (error) {
			this.problem = said(error);
		}
		stop();
		this.progress = null;
		this.busy = false;
		await this.load();
	};

	decide = async (take: boolean) => {
		this.busy = true;
		try {
			await api.POST('/api/records/{run_id}/decide', {
				params: { path: { run_id: this.waiting?.id ?? '' } },
				body: { take }
			});
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = false;
		await this.load();
	};
	open = (id: string) => goto(`?run=${id}`, { keepFocus: true, noScroll: true }).then(this.load);
	moves = (r: Schemas['RunLine']) => (r.counts.added ?? 0) + (r.counts.changed ?? 0);
}
