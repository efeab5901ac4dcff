import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url }) => {
	const subject = url.searchParams.get('subject') ?? '';
	const first = url.searchParams.get('first') ?? '';
	const last = url.searchParams.get('last') ?? '';
	try {
		const page = await body(
			api.GET('/api/mastery/students/{person}', {
				params: {
					path: { person: params.person },
					query: { subject, ...(first ? { first } : {}), ...(last ? { last } : {}) }
				}
			})
		);
		return { page, problem: '' };
	} catch (error) {
		return { page: null, problem: said(error) };
	}
};
