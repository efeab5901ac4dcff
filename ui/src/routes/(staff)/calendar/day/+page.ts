import { api, body, plainly, type Schemas } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent, depends }) => {
	depends('bildung:day');
	await parent();
	let found: Schemas['TestingDay'] | null = null;
	let problem = '';
	try {
		const query = { school: url.searchParams.get('school'), day: url.searchParams.get('day') };
		found = await body(api.GET('/api/planning/day', { params: { query } }));
	} catch (error) {
		problem = plainly(error);
	}
	return { found, problem };
};
