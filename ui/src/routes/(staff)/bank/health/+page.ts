import { HealthPage } from './health.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new HealthPage();
	await shown.load();
	return { shown };
};
