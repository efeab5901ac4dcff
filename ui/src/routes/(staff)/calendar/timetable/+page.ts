import { api, body, plainly, type Schemas } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent, depends }) => {
	depends('bildung:timetable');
	await parent();
	let found: Schemas['Timetable'] | null = null;
	let problem = '';
	try {
		const query = { school: url.searchParams.get('school') };
		found = await body(api.GET('/api/planning/timetable', { params: { query } }));
	} catch (error) {
		problem = plainly(error);
	}
	return { found, problem };
};
