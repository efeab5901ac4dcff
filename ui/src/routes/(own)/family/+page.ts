import { redirect } from '@sveltejs/kit';
import { api, body, Problem, said, tokens, type Schemas } from '$lib/api/client';
import { formats } from '$lib/words/formats.svelte';
import { setZone } from '$lib/words/show';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ depends }) => {
	depends('bildung:family');
	let family: Schemas['OwnPage'] | null = null;
	let problem = '';
	try {
		family = await body(api.GET('/api/family'));
		tokens.own = family.csrf;
		formats.set(family.formats);
		setZone(family.zone);
	} catch (error) {
		if (error instanceof Problem && error.status === 401) redirect(307, '/');
		problem = said(error);
	}
	return { family, problem };
};
