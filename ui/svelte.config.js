import adapter from '@sveltejs/adapter-static';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** One page that the server hands out for every address; the router does the rest. */
export default {
	preprocess: vitePreprocess(),
	kit: {
		adapter: adapter({ fallback: 'index.html' }),
		version: { name: 'bildung' },
		serviceWorker: { register: false }
	}
};
