import { Door } from './door.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, untrack }) => {
	const shown = new Door(untrack(() => new URLSearchParams(url.search)));
	await shown.load();
	return { shown };
};
