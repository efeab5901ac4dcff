import { redirect } from '@sveltejs/kit';
import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

const NAMES = ['start', 'end', 'school', 'grade', 'klass', 'attribute'] as const;

export const load: PageLoad = async ({ params, url }) => {
	const asked = (name: string) => url.searchParams.get(name) ?? '';
	const query = Object.fromEntries(NAMES.map((name) => [name, asked(name)])) as Record<(typeof NAMES)[number], string>;
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
