import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
	build: { assetsInlineLimit: 0 }, // the content policy takes fonts from files only
	plugins: [tailwindcss(), sveltekit()],
	server: { proxy: { '/api': 'http://127.0.0.1:8000' } }
});
