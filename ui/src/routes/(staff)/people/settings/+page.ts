import { SettingsPage } from './settings.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ parent }) => {
	await parent();
	const shown = new SettingsPage();
	await shown.load();
	return { shown };
};
