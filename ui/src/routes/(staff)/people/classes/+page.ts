import { ClassesPage } from './classes.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent }) => {
	await parent();
	const shown = new ClassesPage(url);
	await shown.load();
	return { shown };
};
