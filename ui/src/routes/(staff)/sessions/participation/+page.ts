import { api, body, plainly, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import type { PageLoad } from './$types';

export type By = 'test' | 'school' | 'grade' | 'subject' | 'group' | 'class';

export const load: PageLoad = async ({ url, parent, depends }) => {
	depends('bildung:participation');
	await parent();
	const window = staff.window(url.searchParams.get('window'));
	const by = (url.searchParams.get('by') ?? 'school') as By;
	let found: Schemas['ParticipationPage'] | null = null;
	let rules: Schemas['RequirementLine'][] = [];
	let exempt: Schemas['ExemptionsPage'] | null = null;
	let problem = '';
	try {
		const query = { window: window?.id ?? '' };
		found = await body(api.GET('/api/participation', { params: { query: { ...query, by } } }));
		if (staff.may('sessions.plan'))
			rules = await body(api.GET('/api/participation/requirements', { params: { query } }));
		if (staff.may('support.read')) exempt = await body(api.GET('/api/participation/exemptions'));
	} catch (error) {
		problem = plainly(error);
	}
	return { window, by, found, rules, exempt, problem };
};
