import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url, depends }) => {
	depends('bildung:earlier');
	const window = url.searchParams.get('window') ?? '';
	try {
		const asked = { params: { path: { place: params.place }, query: { window } } };
		return { page: await body(api.GET('/api/scoring/items/{place}/earlier', asked)), problem: '', window };
	} catch (error) {
		return { page: null, problem: said(error), window };
	}
};
