import { StimulusPage } from './stimulus.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new StimulusPage(params.id);
	await shown.load();
	return { shown };
};
