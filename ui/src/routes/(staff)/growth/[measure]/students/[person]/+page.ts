import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params }) => {
	try {
		return {
			page: await body(
				api.GET('/api/growth/measures/{measure}/students/{person}', {
					params: { path: { measure: params.measure, person: params.person } }
				})
			),
			problem: ''
		};
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
