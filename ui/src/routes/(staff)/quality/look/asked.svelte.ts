import { untrack } from 'svelte';
import { api, plainly } from '$lib/api/client';
import { address } from './address.svelte';

/**
 * A question put to the server again whenever what is looked at changes, or what else it depends on; an answer that was
 * overtaken is dropped. Other changes of the address, such as an order, ask nothing.
 */
export class Asked<T> {
	data = $state.raw<T | null>(null);
	problem = $state('');
	busy = $state(false);
	progress = $state('');
	#asked = 0;

	/** ask gets the name of a job under which long work tells how far it is. also: what else it depends on. */
	constructor(ask: (job: string) => Promise<T>, also: () => string = () => '') {
		const key = $derived(`${address.key} ${also()}`);
		$effect(() => {
			void key;
			const mine = ++this.#asked;
			const job = `q${crypto.getRandomValues(new Uint32Array(2)).join('')}`;
			this.busy = true;
			const look = setInterval(async () => {
				const { data } = await api
					.GET('/api/quality/jobs/{job}', { params: { path: { job } } })
					.catch(() => ({ data: undefined }));
				if (mine === this.#asked && data?.what)
					this.progress = data.total ? `${data.what}, ${data.done} of ${data.total}` : data.what;
			}, 700);
			untrack(() => ask(job))
				.then((answer) => {
					if (mine === this.#asked) [this.data, this.problem] = [answer, ''];
				})
				.catch((error) => {
					if (mine === this.#asked) [this.data, this.problem] = [null, plainly(error)];
				})
				.finally(() => {
					clearInterval(look);
					if (mine === this.#asked) [this.busy, this.progress] = [false, ''];
				});
			return () => clearInterval(look);
		});
	}
}
