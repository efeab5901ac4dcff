import { Entry } from './entry.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url }) => {
	const page = new Entry(params.id);
	await page.load(url.searchParams.get('attempt'));
	return { page };
};
