import { LogPage } from './log.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent }) => {
	await parent();
	const shown = new LogPage(url);
	await shown.load();
	return { shown };
};
