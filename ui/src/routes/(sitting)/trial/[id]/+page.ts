import { redirect } from '@sveltejs/kit';
import { api, body, Problem, tokens } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url, untrack }) => {
	try {
		tokens.staff = (await body(api.GET('/api/me'))).csrf;
	} catch (error) {
		if (error instanceof Problem && error.status === 401)
			redirect(307, `/?next=${encodeURIComponent(untrack(() => url.pathname))}`);
		throw error;
	}
	return { id: params.id, seed: untrack(() => Number(url.searchParams.get('draw') ?? 1)) };
};
