import { api, body, said } from '$lib/api/client';
import type { PageLoad } from './$types';

const NAMES = ['klass', 'domain', 'first', 'last', 'priority', 'whole'] as const;
const LAST = 'mastery.class';

export const load: PageLoad = async ({ url }) => {
	const asked = Object.fromEntries(NAMES.map((name) => [name, url.searchParams.get(name) ?? ''])) as Record<
		(typeof NAMES)[number],
		string
	>;
	// the class that was looked at last
	const remembered = localStorage.getItem(LAST) ?? '';
	const ask = (klass: string) =>
		body(
			api.GET('/api/mastery', {
				params: {
					query: {
						klass,
						domain: asked.domain,
						priority: asked.priority === 'yes',
						whole: asked.whole === 'yes',
						...(asked.first ? { first: asked.first } : {}),
						...(asked.last ? { last: asked.last } : {})
					}
				}
			})
		);
	try {
		let page;
		try {
			page = await ask(asked.klass || remembered);
		} catch (error) {
			if (asked.klass || !remembered) throw error;
			page = await ask('');
		}
		if (page.class_id) localStorage.setItem(LAST, page.class_id);
		return { page, problem: '', asked };
	} catch (error) {
		return { page: null, problem: said(error), asked };
	}
};
