import { api, body, said, type Schemas } from '$lib/api/client';

/** Gaps in the bank. */
export class HealthPage {
	/** Gaps in the bank: thin standards as bars against what is enough, and items to look at. */
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
		['easy', 'correct for more than 85%', 'var(--color-relief5)'],
		['middle', 'in between', 'var(--color-relief3)'],
		['hard', 'for fewer than 40%', 'var(--color-relief1)'],
		['unknown', 'not used yet', 'var(--color-sheet)']
	] as const;
	LISTS = [
		['waiting', 'Awaiting action after a decision'],
		['flagged', 'Flagged repeatedly'],
		['worn', 'Overused this year'],
		['untold', 'Pictures without alt text'],
		['unused', 'Not used yet']
	] as const;
}
