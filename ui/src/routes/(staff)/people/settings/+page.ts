import { SettingsPage } from './settings.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async () => {
	const shown = new SettingsPage();
	await shown.load();
	return { shown };
};
