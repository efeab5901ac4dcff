import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, depends }) => {
	depends('bildung:reflections');
	try {
		const request = url.searchParams.get('request') ?? '';
		const page = await body(api.GET('/api/growth/reflections', { params: { query: { request } } }));
		const measures = page.asks ? (await body(api.GET('/api/growth'))).measures : [];
		return { page, measures, problem: '' };
	} catch (error) {
		return { page: null, measures: [], problem: said(error) };
	}
};
