import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url }) => {
	const asked = (name: string) => url.searchParams.get(name) ?? '';
	const query = { start: asked('start'), end: asked('end'), school: asked('school'), grade: asked('grade') };
	try {
		return {
			page: await body(
				api.GET('/api/growth/measures/{measure}/pair', { params: { path: { measure: params.measure }, query } })
			),
			problem: '',
			query
		};
	} catch (error) {
		return { page: null, problem: said(error), query };
	}
};
