import { SessionPage } from './session.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new SessionPage(params.id);
	await shown.load();
	return { shown };
};
