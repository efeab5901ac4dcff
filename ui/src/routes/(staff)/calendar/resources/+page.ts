import { api, body, plainly, type Schemas } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent, depends }) => {
	depends('bildung:resources');
	await parent();
	let found: Schemas['ResourcesPage'] | null = null;
	let problem = '';
	try {
		const query = { school: url.searchParams.get('school') };
		found = await body(api.GET('/api/planning/resources', { params: { query } }));
	} catch (error) {
		problem = plainly(error);
	}
	return { found, problem };
};
