import { GroupPage } from './group.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new GroupPage(params.id);
	await shown.load();
	return { shown };
};
