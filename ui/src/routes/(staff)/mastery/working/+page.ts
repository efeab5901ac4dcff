import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ depends }) => {
	depends('mastery:groups');
	try {
		return { page: await body(api.GET('/api/mastery/groups')), problem: '' };
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
