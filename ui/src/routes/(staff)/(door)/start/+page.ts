import { redirect } from '@sveltejs/kit';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import type { PageLoad } from './$types';

const ORDER = ['/quality', '/sessions', '/tests', '/bank', '/people'];

/** To where this person's work is: what was sat, else what they hold. A new school sees what comes first. */
export const load: PageLoad = async ({ parent }) => {
	await parent();
	let steps: Schemas['FirstSteps'] | null = null;
	let problem = '';
	try {
		if (staff.may('people.import')) steps = await body(api.GET('/api/me/first-steps'));
	} catch (error) {
		problem = said(error);
	}
	const open = ORDER.find((path) => staff.me?.stations.some((s) => s.path === path));
	if (!problem && !(steps && !steps.complete) && open) redirect(307, open);
	return { steps, problem };
};
