import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, depends }) => {
	depends('mastery:rules');
	const framework = url.searchParams.get('framework') ?? '';
	try {
		return { page: await body(api.GET('/api/mastery/rules', { params: { query: { framework } } })), problem: '' };
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
