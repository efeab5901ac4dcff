import { RecordsPage } from './records.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent }) => {
	await parent();
	const shown = new RecordsPage(url);
	await shown.load();
	return { shown };
};
