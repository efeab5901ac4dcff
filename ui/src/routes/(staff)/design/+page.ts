import { redirect } from '@sveltejs/kit';
import { api, body } from '$lib/api/client';
import type { PageLoad } from './$types';

/** Only where sample data are served. */
export const load: PageLoad = async ({ parent }) => {
	await parent();
	const welcome = await body(api.GET('/api/welcome'));
	if (!welcome.demo_people.length) redirect(307, '/today');
};
