import { redirect } from '@sveltejs/kit';
import { api, body, Problem, said, tokens, type Schemas } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ depends }) => {
	depends('bildung:own');
	let own: Schemas['OwnPage'] | null = null;
	let problem = '';
	try {
		own = await body(api.GET('/api/own'));
		tokens.own = own.csrf;
	} catch (error) {
		if (error instanceof Problem && error.status === 401) redirect(307, '/');
		problem = said(error);
	}
	return { own, problem };
};
