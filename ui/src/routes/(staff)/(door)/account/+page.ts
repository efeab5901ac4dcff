import { AccountPage } from './account.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new AccountPage();
	await shown.load();
	return { shown };
};
