import { Correcting } from './correcting.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url }) => {
	const page = new Correcting(params.place, url.searchParams);
	await page.load();
	return { page };
};
