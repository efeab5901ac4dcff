import { WritingPage } from './writing.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new WritingPage();
	await shown.load();
	return { shown };
};
