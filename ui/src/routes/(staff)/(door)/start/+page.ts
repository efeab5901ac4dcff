import { redirect } from '@sveltejs/kit';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import type { PageLoad } from './$types';

/** What a new school does first; whoever has nothing to set up is led to Today. */
export const load: PageLoad = async ({ parent }) => {
	await parent();
	let steps: Schemas['FirstSteps'] | null = null;
	let problem = '';
	try {
		if (staff.may('people.import')) steps = await body(api.GET('/api/me/first-steps'));
	} catch (error) {
		problem = said(error);
	}
	if (!problem && !(steps && !steps.complete)) redirect(307, '/today');
	return { steps, problem };
};
