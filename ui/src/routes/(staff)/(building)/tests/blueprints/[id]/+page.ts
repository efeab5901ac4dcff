import { BlueprintPage } from './blueprint.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new BlueprintPage(params.id);
	await shown.load();
	return { shown };
};
