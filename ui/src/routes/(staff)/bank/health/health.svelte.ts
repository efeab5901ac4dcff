import { api, body, said, type Schemas } from '$lib/api/client';

/** What the bank lacks. */
export class HealthPage {
	/** What the bank lacks: thin standards as bars against what is enough, and items to look at. */
	data = $state<Schemas['Health'] | null>(null);
	problem = $state('');

	load = async () => {
		try {
			this.data = await body(api.GET('/api/bank/health'));
		} catch (error) {
			this.problem = said(error);
		}
	};
	PARTS = [
		['easy', 'got by more than 85 %', 'var(--color-relief5)'],
		['middle', 'in between', 'var(--color-relief3)'],
		['hard', 'by fewer than 40 %', 'var(--color-relief1)'],
		['unknown', 'never sat', 'var(--color-sheet)']
	] as const;
	LISTS = [
		['waiting', 'Waiting after a verdict'],
		['flagged', 'Flagged for good reason'],
		['worn', 'Sat often this year'],
		['untold', 'Pictures without words'],
		['unused', 'Never sat']
	] as const;
}
