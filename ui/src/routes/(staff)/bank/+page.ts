import { BankPage } from './bank.svelte';
import type { PageLoad } from './$types';

// what is looked for changes while somebody types: the page keeps up with it by itself
export const load: PageLoad = async ({ url, untrack, parent }) => {
	await parent();
	const shown = new BankPage(untrack(() => new URLSearchParams(url.search)));
	await shown.begin();
	return { shown };
};
