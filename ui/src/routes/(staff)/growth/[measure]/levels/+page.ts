import { redirect } from '@sveltejs/kit';
import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url, depends }) => {
	depends('bildung:levels');
	const at = url.searchParams.get('at') ?? '';
	if (!at) {
		const { measures } = await body(api.GET('/api/growth'));
		const last = measures.find((m) => m.id === params.measure)?.windows.at(-1);
		if (last) redirect(307, `/growth/${params.measure}/levels?at=${last.id}`);
		return { page: null, problem: 'This measure has no scores yet.', query: { at, school: '', grade: '' } };
	}
	const query = { school: url.searchParams.get('school') ?? '', grade: url.searchParams.get('grade') ?? '' };
	try {
		return {
			page: await body(
				api.GET('/api/growth/measures/{measure}/occasions/{occasion}', {
					params: { path: { measure: params.measure, occasion: at }, query }
				})
			),
			problem: '',
			query: { at, ...query }
		};
	} catch (error) {
		return { page: null, problem: said(error), query: { at, ...query } };
	}
};
