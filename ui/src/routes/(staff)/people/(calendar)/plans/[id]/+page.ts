import { PlanPage } from './plan.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new PlanPage(params.id);
	await shown.load();
	return { shown };
};
