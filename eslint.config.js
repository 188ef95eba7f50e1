import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './web/svelte.config.js';

/**
 * Types of components cost most of the time of a run, since TypeScript looks at all of the application anew for each: `npm run lint:components` asks for them.
 * Else the promises that components begin are known by the names of those who give them.
 */
const typesComponents = process.env.LINT_COMPONENTS === '1';
const TYPED = typesComponents ? ['**/*.ts', '**/*.svelte'] : ['**/*.ts'];

export default ts.config(
  {
    ignores: [
      '**/build/',
      '**/.svelte-kit/',
      '**/node_modules/',
      'data/',
      '**/dist/',
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
  // CommonJS requires.
  { files: ['**/*.cjs'], rules: { '@typescript-eslint/no-require-imports': 'off' } },
  // Rules that know the types: a promise nobody waits for, a case nobody thought of.
  {
    files: ['**/*.ts'],
    ignores: ['web/**'],
    languageOptions: {
      parserOptions: {
        project: [
          'core/tsconfig.json',
          'core/tsconfig.test.json',
          'cli/tsconfig.json',
          'collect/tsconfig.json',
          'load/tsconfig.json',
          'run/tsconfig.json',
          'workload/tsconfig.json',
          'bench/tsconfig.json',
          'recordings/tsconfig.json',
          'tsconfig.scripts.json'
        ],
        tsconfigRootDir: import.meta.dirname
      }
    }
  },
  {
    files: TYPED.map((files) => `web/${files}`),
    languageOptions: {
      parserOptions: {
        projectService: true,
        tsconfigRootDir: import.meta.dirname,
        extraFileExtensions: ['.svelte']
      }
    }
  },
  {
    files: TYPED,
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': 'error',
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': [
        'error',
        { considerDefaultExhaustiveForUnions: true }
      ]
    }
  },
  {
    files: ['**/*.svelte'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'ExpressionStatement > CallExpression[callee.name=/^(?:goto|invalidate|invalidateAll|changeScope|send|sendAndSay|fetch)$/]',
          message: 'Nobody waits for it: await it, or say void.'
        }
      ]
    }
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser, svelteConfig } }
  },
  // The core knows neither Node nor the browser.
  {
    files: ['core/src/**/*.ts'],
    ignores: ['**/*.test.ts', 'core/src/testing/**'],
    rules: { 'no-restricted-globals': ['error', 'process', 'window', 'document', 'Buffer', 'console'] }
  }
);
