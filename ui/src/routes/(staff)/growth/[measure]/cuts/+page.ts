import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, depends }) => {
	depends('bildung:cuts');
	try {
		return {
			page: await body(
				api.GET('/api/growth/measures/{measure}/cuts', { params: { path: { measure: params.measure } } })
			),
			problem: ''
		};
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
