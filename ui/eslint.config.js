import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

export default ts.config(
	{ ignores: ['build', '.svelte-kit', 'node_modules', 'src/lib/api/schema.d.ts'] },
	js.configs.recommended,
	...ts.configs.recommended,
	...svelte.configs.recommended,
	{
		languageOptions: { globals: globals.browser },
		rules: {
			'no-undef': 'off', // the type checker knows better
			'svelte/no-unused-svelte-ignore': 'off', // svelte-check knows which are needed, and fails on a warning
			'svelte/no-useless-mustaches': 'off', // a space at the end of a line is one only so
			'svelte/no-navigation-without-resolve': 'off', // the pages are served at the root of their address
			'svelte/prefer-svelte-reactivity': 'off', // what is not state, and most of ours is not, needs none
			'@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }]
		}
	},
	{
		files: ['**/*.svelte', '**/*.svelte.ts'],
		languageOptions: {
			parserOptions: { projectService: true, extraFileExtensions: ['.svelte'], parser: ts.parser, svelteConfig }
		}
	}
);
