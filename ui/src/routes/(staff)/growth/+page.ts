import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ depends }) => {
	depends('bildung:measures');
	try {
		return { page: await body(api.GET('/api/growth')), problem: '' };
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
