import { LiveRoundPage } from './live.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new LiveRoundPage(params.id);
	await shown.load();
	return { shown };
};
