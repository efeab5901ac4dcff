import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent, depends }) => {
	depends('bildung:sessions');
	await parent();
	const window = staff.window(url.searchParams.get('window'))?.id;
	let found: Schemas['SessionsPage'] | null = null;
	let problem = '';
	try {
		found = await body(api.GET('/api/sessions', { params: { query: { window } } }));
	} catch (error) {
		problem = said(error);
	}
	return { found, problem };
};
