import { GroupPage } from './group.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params }) => {
	const shown = new GroupPage(params.id);
	await shown.load();
	return { shown };
};
