import { api, body, said, type Schemas } from '$lib/api/client';
import { Draft } from './draft.svelte';
import type { PageLoad } from './$types';

/** The draft, opened where there is none yet, with what can be chosen for it. */
export const load: PageLoad = async ({ params, url, parent, untrack }) => {
	await parent();
	const draft = new Draft(params.id);
	let standards: Schemas['StandardLine'][] = [];
	let stimuli: Schemas['StimulusLine'][] = [];
	let problem = '';
	try {
		await draft.load();
		const wanted = untrack(() => url.searchParams.get('standard'));
		if (wanted && draft.standards.length === 0) {
			draft.standards = [wanted];
			draft.changed();
		}
		[{ standards }, { stimuli }] = await Promise.all([
			body(api.GET('/api/bank/overview')),
			body(api.GET('/api/bank/stimuli'))
		]);
	} catch (error) {
		problem = said(error);
	}
	return { draft, standards, stimuli, problem };
};
