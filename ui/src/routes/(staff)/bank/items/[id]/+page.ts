import { ItemPage } from './item.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new ItemPage(params.id);
	await shown.load();
	return { shown };
};
