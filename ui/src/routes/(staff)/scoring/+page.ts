import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, depends }) => {
	depends('bildung:scoring');
	const window = url.searchParams.get('window') ?? undefined;
	try {
		return { page: await body(api.GET('/api/scoring', { params: { query: { window } } })), problem: '' };
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
