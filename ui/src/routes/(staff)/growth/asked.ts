import { redirect } from '@sveltejs/kit';
import { goto } from '$app/navigation';
import { api, body } from '$lib/api/client';

type Asked = Record<string, string>;

/** The same page with something else asked; what is empty stays out of its address. */
export function ask(path: string, asked: Asked, change: Asked) {
	const query = new URLSearchParams(Object.entries({ ...asked, ...change }).filter(([, value]) => value));
	void goto(`${path}?${query}`, { noScroll: true });
}

/** What an address asks, by these names. */
export function askedOf<Name extends string>(url: URL, ...names: Name[]): Record<Name, string> {
	return Object.fromEntries(names.map((name) => [name, url.searchParams.get(name) ?? ''])) as Record<Name, string>;
}

/** To the newest window of a measure, where the address names none; returns where there is none. */
export async function toNewest(measure: string, page: string) {
	const { measures } = await body(api.GET('/api/growth'));
	const last = measures.find((m) => m.id === measure)?.windows.at(-1);
	if (last) redirect(307, `/growth/${measure}/${page}?at=${last.id}`);
}
export const NO_SCORES = 'This measure has no scores yet.';
