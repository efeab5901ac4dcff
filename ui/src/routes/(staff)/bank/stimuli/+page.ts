import { StimuliPage } from './stimuli.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new StimuliPage();
	await shown.search();
	return { shown };
};
