import { PlansPage } from './plans.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new PlansPage();
	await shown.load();
	return { shown };
};
