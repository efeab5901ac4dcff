import { FamilyPage } from './family.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new FamilyPage(params.id);
	await shown.load();
	return { shown };
};
