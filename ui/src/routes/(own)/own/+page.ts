import { redirect } from '@sveltejs/kit';
import { api, body, Problem, said, tokens, type Schemas } from '$lib/api/client';
import { formats } from '$lib/words/formats.svelte';
import { setZone } from '$lib/words/show';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ depends }) => {
	depends('bildung:own');
	let own: Schemas['OwnPage'] | null = null;
	let problem = '';
	try {
		own = await body(api.GET('/api/own'));
		tokens.own = own.csrf;
		formats.set(own.formats);
		setZone(own.zone);
	} catch (error) {
		if (error instanceof Problem && error.status === 401) redirect(307, '/');
		problem = said(error);
	}
	return { own, problem };
};
