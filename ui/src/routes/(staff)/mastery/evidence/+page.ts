import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ depends }) => {
	depends('mastery:evidence');
	try {
		return { page: await body(api.GET('/api/mastery/sessions')), problem: '' };
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
