import { YearPage } from './year.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent }) => {
	await parent();
	const shown = new YearPage(url);
	await shown.load();
	return { shown };
};
