import { redirect } from '@sveltejs/kit';
import { api, body, said } from '$lib/api/client';
import { askedOf } from '../asked';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url }) => {
	const query = askedOf(url, 'start', 'end', 'school', 'grade', 'klass', 'attribute');
	if (!query.start || !query.end) {
		const { measures } = await body(api.GET('/api/growth'));
		const [start, end] = measures.find((m) => m.id === params.measure)?.latest ?? [];
		if (start && end) redirect(307, `/growth/${params.measure}?start=${start}&end=${end}`);
		return { page: null, problem: 'This measure has no two windows with scores in one year yet.', query };
	}
	try {
		return {
			page: await body(
				api.GET('/api/growth/measures/{measure}/pair', { params: { path: { measure: params.measure }, query } })
			),
			problem: '',
			query
		};
	} catch (error) {
		return { page: null, problem: said(error), query };
	}
};
