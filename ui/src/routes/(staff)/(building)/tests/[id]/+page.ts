import { FormPage } from './form.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	return { shown: await FormPage.open(params.id) };
};
