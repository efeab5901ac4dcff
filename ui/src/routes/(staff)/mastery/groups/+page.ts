import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

const some = (text: string | null, usual: number) => (text && /^\d{1,2}$/.test(text) ? Number(text) : usual);

export const load: PageLoad = async ({ url }) => {
	const klass = url.searchParams.get('klass') ?? '';
	const asked = {
		least: some(url.searchParams.get('least'), 3),
		most: some(url.searchParams.get('most'), 6),
		many: some(url.searchParams.get('many'), 4),
		apart: url.searchParams.getAll('apart')
	};
	try {
		const found = await body(
			api.GET('/api/mastery/classes/{klass}/groups', { params: { path: { klass }, query: asked } })
		);
		return { found, asked, klass, problem: '' };
	} catch (error) {
		return { found: null, asked, klass, problem: said(error) };
	}
};
