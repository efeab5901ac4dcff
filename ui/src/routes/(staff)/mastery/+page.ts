import { api, body, said } from '$lib/api/client';
import { asked as read, toQuery, WHO } from './asked';
import type { PageLoad } from './$types';

const LAST = 'mastery.who';
const SEEN = 'mastery.seen';

/** The day of the visit before this one, which changes are marked from; the days of the last two visits are kept. */
function lastVisit(today: string): string {
	const [last = '', before = ''] = (localStorage.getItem(SEEN) ?? '').split(' ');
	if (last === today) return before;
	localStorage.setItem(SEEN, `${today} ${last}`.trim());
	return last;
}

export const load: PageLoad = async ({ url }) => {
	const asked = read(url);
	const since = asked.since || lastVisit(new Date().toISOString().slice(0, 10));
	// whoever was looked at last
	const remembered = new URLSearchParams(localStorage.getItem(LAST) ?? '');
	const named = WHO.some((name) => asked[name].length > 0);
	const ask = (more: URLSearchParams | null) =>
		body(
			api.GET('/api/mastery', {
				params: { query: toQuery(more ? read(new URL(`?${more}`, url)) : asked, { ...asked, since }) }
			})
		);
	try {
		let page;
		try {
			page = await ask(named || !remembered.size ? null : remembered);
		} catch (error) {
			if (named || !remembered.size) throw error;
			page = await ask(null);
		}
		const kept = new URLSearchParams();
		if (named) {
			for (const name of WHO) for (const value of [asked[name]].flat()) if (value) kept.append(name, value);
			localStorage.setItem(LAST, kept.toString());
		} else if (page.class_id) localStorage.setItem(LAST, `klass=${page.class_id}`);
		return { page, problem: '', asked: named ? asked : { ...asked, klass: page.class_id ?? '' } };
	} catch (error) {
		return { page: null, problem: said(error), asked };
	}
};
