import { api, body, plainly, type Schemas } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent, depends }) => {
	depends('bildung:choices');
	await parent();
	let found: Schemas['BlockChoicesPage'] | null = null;
	let problem = '';
	try {
		found = await body(api.GET('/api/planning/choices'));
	} catch (error) {
		problem = plainly(error);
	}
	return { found, problem };
};
