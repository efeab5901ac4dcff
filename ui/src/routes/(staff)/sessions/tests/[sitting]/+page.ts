import { StudentTestPage } from './test.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url, parent }) => {
	await parent();
	const shown = new StudentTestPage(params.sitting, url.searchParams.get('item') ?? '');
	await shown.load();
	return { shown };
};
