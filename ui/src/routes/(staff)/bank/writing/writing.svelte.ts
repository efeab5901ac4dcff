import { api, body, said, type Schemas } from '$lib/api/client';

/** What somebody is writing, and what waits for their review. */
export class WritingPage {
	/** What waits for this person's review, and what they are writing themselves. */
	found = $state<Schemas['Writing'] | null>(null);
	problem = $state('');

	load = async () => {
		try {
			this.found = await body(api.GET('/api/bank/writing'));
		} catch (error) {
			this.problem = said(error);
		}
	};
	still = (w: Schemas['Written']) =>
		w.faults
			? `${w.faults} ${w.faults === 1 ? 'problem' : 'problems'} to fix`
			: w.stage === 'in_review'
				? 'in review'
				: 'complete, ready to submit for review';
}
