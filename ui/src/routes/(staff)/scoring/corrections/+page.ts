import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ depends }) => {
	depends('bildung:corrections');
	try {
		return { page: await body(api.GET('/api/corrections')), problem: '' };
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
