import { VerdictsPage } from './verdicts.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new VerdictsPage();
	await shown.load();
	return { shown };
};
