import { FrameworksPage } from './frameworks.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url }) => {
	const shown = new FrameworksPage(url);
	await shown.load();
	return { shown };
};
