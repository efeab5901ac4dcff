import { CheckPage } from './check.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new CheckPage();
	await shown.load();
	return { shown };
};
