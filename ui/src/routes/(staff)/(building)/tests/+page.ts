import { TestsPage } from './tests.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new TestsPage();
	await shown.load();
	return { shown };
};
