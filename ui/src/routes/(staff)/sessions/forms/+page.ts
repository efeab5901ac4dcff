import { api, body, plainly, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent, depends }) => {
	depends('bildung:forms');
	await parent();
	const window = staff.window(url.searchParams.get('window'));
	let found: Schemas['FormsPage'] | null = null;
	let problem = '';
	try {
		found = await body(api.GET('/api/sessions/forms', { params: { query: { window: window?.id ?? '' } } }));
	} catch (error) {
		problem = plainly(error);
	}
	return { window, found, problem };
};
