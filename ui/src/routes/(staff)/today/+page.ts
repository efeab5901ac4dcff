import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent, depends }) => {
	depends('bildung:today');
	await parent();
	let found: Schemas['TodayPage'] | null = null;
	let steps: Schemas['FirstSteps'] | null = null;
	let problem = '';
	try {
		found = await body(api.GET('/api/today'));
		if (staff.may('people.import')) steps = await body(api.GET('/api/me/first-steps'));
	} catch (error) {
		problem = said(error);
	}
	return { found, steps: steps?.complete ? null : steps, problem };
};
