import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './web/svelte.config.js';

export default ts.config(
  {
    ignores: [
      '**/build/',
      '**/.svelte-kit/',
      '**/node_modules/',
      'data/',
      '.tmp/',
      'web/drizzle/',
      'test-results/',
      '.dependency-cruiser.cjs',
      // Programs as other people write them.
      'recordings/*/*.cjs'
    ]
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  {
    languageOptions: { globals: { ...globals.node, ...globals.browser } },
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'no-undef': 'off',
      'preserve-caught-error': 'off',
      eqeqeq: ['error', 'always'],
      'no-eval': 'error',
      'svelte/no-at-html-tags': 'error',
      'svelte/no-navigation-without-resolve': 'off',
      // Maps and URLs here are made anew, never changed in place.
      'svelte/prefer-svelte-reactivity': 'off'
    }
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig } }
  },
  // The core knows neither Node nor the browser.
  {
    files: ['core/src/**/*.ts'],
    ignores: ['**/*.test.ts', 'core/src/testing/**'],
    rules: { 'no-restricted-globals': ['error', 'process', 'window', 'document', 'Buffer', 'console'] }
  }
);
