import { redirect } from '@sveltejs/kit';
import { Problem, said } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import type { LayoutLoad } from './$types';

/** Who is signed in, before any page of staff asks for anything; whoever is not is led to the door. */
export const load: LayoutLoad = async ({ url, untrack }) => {
	const here = untrack(() => ({ path: url.pathname, search: url.search }));
	let problem = '';
	try {
		await staff.load();
	} catch (error) {
		if (error instanceof Problem && error.status === 401)
			redirect(307, `/?next=${encodeURIComponent(here.path + here.search)}`);
		problem = said(error);
	}
	if (staff.me?.must_change && here.path !== '/account') redirect(307, '/account');
	return { problem };
};
