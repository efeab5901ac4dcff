import { api, body } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';
import { SessionPage } from './session.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	const shown = new SessionPage(params.id);
	const helped = staff.may('sessions.read')
		? body(api.GET('/api/sessions/{session_id}/support', { params: { path: { session_id: params.id } } }))
		: null;
	// what keeps the page from opening is said by the page itself
	const [support] = await Promise.all([helped?.catch(() => null) ?? null, shown.load()]);
	return { shown, support };
};
