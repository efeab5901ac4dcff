import { api, body, said } from '$lib/api/client';
import { askedOf, NO_SCORES, toNewest } from '../../asked';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url }) => {
	const query = askedOf(url, 'at', 'school', 'grade');
	const { at: occasion, ...scope } = query;
	if (!occasion) {
		await toNewest(params.measure, 'levels');
		return { page: null, problem: NO_SCORES, query };
	}
	try {
		return {
			page: await body(
				api.GET('/api/growth/measures/{measure}/occasions/{occasion}', {
					params: { path: { measure: params.measure, occasion }, query: scope }
				})
			),
			problem: '',
			query
		};
	} catch (error) {
		return { page: null, problem: said(error), query };
	}
};
