import { PeoplePage } from './people.svelte';
import type { PageLoad } from './$types';

// what is looked for changes while somebody types: the page keeps up with it by itself
export const load: PageLoad = async ({ url, untrack, parent }) => {
	await parent();
	const shown = new PeoplePage(untrack(() => url.searchParams.get('find') ?? ''));
	await shown.load();
	return { shown };
};
