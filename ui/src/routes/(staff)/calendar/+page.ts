import { api, body, plainly, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ url, parent, depends }) => {
	depends('bildung:board');
	await parent();
	const window = staff.window(url.searchParams.get('window'));
	let board: Schemas['BoardPage'] | null = null;
	let problem = '';
	try {
		if (window) {
			const query = { school: url.searchParams.get('school') };
			board = await body(
				api.GET('/api/planning/windows/{window}/board', { params: { path: { window: window.id }, query } })
			);
		}
	} catch (error) {
		problem = plainly(error);
	}
	return { window, board, problem };
};
