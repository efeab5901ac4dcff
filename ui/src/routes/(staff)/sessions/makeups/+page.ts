import { api, body, plainly, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent, depends }) => {
	depends('bildung:makeups');
	await parent();
	const window = staff.window(url.searchParams.get('window'));
	let found: Schemas['Makeups'] | null = null;
	let problem = '';
	try {
		const query = { window: window?.id ?? '', person: url.searchParams.getAll('person') };
		found = await body(api.GET('/api/sessions/makeups', { params: { query } }));
	} catch (error) {
		problem = plainly(error);
	}
	return { window, found, problem };
};
