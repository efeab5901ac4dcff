import { DeskPage } from './desk.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, url, parent }) => {
	await parent();
	const shown = new DeskPage(
		params.place,
		url.searchParams.get('window') ?? '',
		url.searchParams.get('sitting') ?? undefined
	);
	await shown.load();
	return { shown };
};
