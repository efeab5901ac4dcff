import { redirect } from '@sveltejs/kit';
import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url, depends }) => {
	depends('bildung:projection');
	const asked = (name: string) => url.searchParams.get(name) ?? '';
	const at = asked('at');
	const query = { to: asked('to'), school: asked('school'), grade: asked('grade') };
	if (!at) {
		const { measures } = await body(api.GET('/api/growth'));
		const last = measures.find((m) => m.id === params.measure)?.windows.at(-1);
		if (last) redirect(307, `/growth/${params.measure}/projection?at=${last.id}`);
		return { page: null, problem: 'This measure has no scores yet.', query: { at, ...query } };
	}
	try {
		return {
			page: await body(
				api.GET('/api/growth/measures/{measure}/occasions/{occasion}/projection', {
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
