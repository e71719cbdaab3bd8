import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import config from './svelte.config.js';

export default ts.config(
	{ ignores: ['node_modules', 'src/api/schema.d.ts', 'openapi.json'] },
	js.configs.recommended,
	...ts.configs.strict,
	...svelte.configs.recommended,
	{ languageOptions: { globals: globals.browser } },
	{
		files: ['**/*.svelte', '**/*.svelte.ts'],
		languageOptions: { parserOptions: { parser: ts.parser, svelteConfig: config } },
	},
	{
		rules: {
			// Written for another router.
			'svelte/no-navigation-without-resolve': 'off',
			// What hosts, archives and pages say is text; there is no exception.
			'svelte/no-at-html-tags': 'error',
		},
	},
);
