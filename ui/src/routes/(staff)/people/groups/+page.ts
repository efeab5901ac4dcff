import { GroupsPage } from './groups.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new GroupsPage();
	await shown.load();
	return { shown };
};
