import { api, body, said, type Schemas } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url }) => {
	const klass = url.searchParams.get('klass') ?? '';
	const asked = {
		least: Number(url.searchParams.get('least') ?? 3),
		most: Number(url.searchParams.get('most') ?? 6),
		many: Number(url.searchParams.get('many') ?? 4),
		apart: url.searchParams.getAll('apart'),
		by: (url.searchParams.get('by') ?? 'need') as Schemas['NeedGroups']['by'],
		standard: url.searchParams.get('standard') ?? '',
		form: url.searchParams.get('form') ?? '',
		window: url.searchParams.get('window') ?? ''
	};
	try {
		const found = await body(
			api.GET('/api/mastery/classes/{klass}/groups', { params: { path: { klass }, query: asked } })
		);
		return { found, problem: '', asked, klass };
	} catch (error) {
		return { found: null, problem: said(error), asked, klass };
	}
};
