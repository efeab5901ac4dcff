import { api, body, said, type Schemas } from '$lib/api/client';

/** Pacing guides of this year, and how far along each is. */
export class PlansPage {
	/** Pacing guides of this year, and how far along each is. */
	data = $state<Schemas['PlansOut'] | null>(null);
	problem = $state('');
	bringing = $state(false);

	load = async () => {
		try {
			this.data = await body(api.GET('/api/plans'));
		} catch (error) {
			this.problem = said(error);
		}
	};
}
