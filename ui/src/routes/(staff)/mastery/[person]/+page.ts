import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url }) => {
	const subject = url.searchParams.get('subject') ?? '';
	try {
		return {
			page: await body(
				api.GET('/api/mastery/students/{person}', { params: { path: { person: params.person }, query: { subject } } })
			),
			problem: ''
		};
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
