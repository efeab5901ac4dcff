import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';

/** One item: what it is, what it did, where it stands, what was said about it. */
export class ItemPage {
	constructor(readonly id: string) {}
	/** One item: what it is, what it did, where it stands, what was said about it. */
	it = $state<Schemas['ItemPage'] | null>(null);
	problem = $state('');
	comment = $state('');
	why = $state('');
	count = $state(5);
	drawn = $state<string[]>([]);
	offering = $state(false);
	STATES: Record<string, string> = { field_test: 'field test', in_use: 'in use' };
	word = (state: string) => this.STATES[state] ?? state;

	load = async () => {
		try {
			this.it = await body(api.GET('/api/bank/items/{item_id}', { params: { path: { item_id: this.id } } }));
		} catch (error) {
			this.problem = said(error);
		}
	};

	act = async (work: () => Promise<unknown>) => {
		try {
			this.problem = '';
			await work();
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};
	get at() {
		return { params: { path: { item_id: this.id } } };
	}

	copy = async () => {
		await this.act(async () => {
			const made = await body(api.POST('/api/bank/items/{item_id}/copy', this.at));
			await goto(`/bank/items/${made.item_id}/edit`);
		});
	};

	say = async (event: SubmitEvent) => {
		event.preventDefault();
		await this.act(() => api.POST('/api/bank/items/{item_id}/comments', { ...this.at, body: { text: this.comment } }));
		if (!this.problem) this.comment = '';
	};

	offer = async (event: SubmitEvent) => {
		event.preventDefault();
		await this.act(() => api.POST('/api/bank/items/{item_id}/offer', { ...this.at, body: { text: this.why } }));
		if (!this.problem) [this.offering, this.why] = [false, ''];
	};

	draw = async () => {
		await this.act(async () => {
			this.drawn = (
				await body(
					api.POST('/api/bank/items/{item_id}/draws', {
						...this.at,
						body: { count: this.count, seed: Math.floor(Math.random() * 1e6) }
					})
				)
			).codes;
		});
	};
}
