import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vitest/config';

export default defineConfig(({ mode }) => ({
	build: { assetsInlineLimit: 0 }, // the content policy takes fonts from files only
	plugins: [tailwindcss(), sveltekit()],
	resolve: mode === 'test' ? { conditions: ['browser'] } : undefined, // components are mounted, not rendered to text
	test: { environment: 'jsdom', include: ['src/**/*.test.ts'] },
	server: { proxy: { '/api': 'http://127.0.0.1:8000' } }
}));
