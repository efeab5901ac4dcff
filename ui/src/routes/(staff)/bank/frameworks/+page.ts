import { FrameworksPage } from './frameworks.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent }) => {
	await parent();
	const shown = new FrameworksPage(url);
	await shown.load();
	return { shown };
};
