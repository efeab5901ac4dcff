import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url }) => {
	const query = { subject: url.searchParams.get('subject') ?? '', grade: url.searchParams.get('grade') ?? '' };
	try {
		return { page: await body(api.GET('/api/mastery/district', { params: { query } })), problem: '' };
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
