import { ClassPage } from './klass.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new ClassPage(params.id);
	await shown.load();
	return { shown };
};
