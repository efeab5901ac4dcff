import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url }) => {
	const klass = url.searchParams.get('klass') ?? '';
	try {
		const path = { klass, standard: params.standard };
		return {
			page: await body(api.GET('/api/mastery/classes/{klass}/standards/{standard}', { params: { path } })),
			problem: ''
		};
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
