import { PlansPage } from './plans.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async () => {
	const shown = new PlansPage();
	await shown.load();
	return { shown };
};
