import { PersonPage } from './person.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new PersonPage(params.id);
	await shown.load();
	return { shown };
};
