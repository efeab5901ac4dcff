import { Releasing } from './releasing.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url }) => {
	const page = new Releasing(params.form, url.searchParams.get('window') ?? '');
	await page.load();
	return { page };
};
