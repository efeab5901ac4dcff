import { api, body, said, type Schemas } from '$lib/api/client';

/** The stimuli of the bank. */
export class StimuliPage {
	found = $state<Schemas['StimuliOut'] | null>(null);
	find = $state('');
	kind = $state('');
	problem = $state('');
	KINDS = [
		['passage', 'passages'],
		['picture', 'pictures'],
		['table', 'tables'],
		['data', 'data sets'],
		['audio', 'sounds']
	] as const;
	most = $derived(Math.max(1, ...(this.found?.stimuli ?? []).map((s) => s.items)));

	search = async () => {
		try {
			this.found = await body(
				api.GET('/api/bank/stimuli', { params: { query: { find: this.find, kind: this.kind } } })
			);
		} catch (error) {
			this.problem = said(error);
		}
	};
}
