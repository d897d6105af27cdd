// @ts-check
import angular from 'angular-eslint';
import { defineConfig } from 'eslint/config';
import tseslint from 'typescript-eslint';
import { LAYERS } from './eslint.layers.mjs';

const NOT_KNOWN = 'This part may not know that one: eslint.layers.mjs says which may, docs/architecture.md shows it.';

export default defineConfig(
  {
    ignores: [
      '**/node_modules',
      'dist',
      'data*',
      'demo/masters',
      '**/*.tmp.mts',
      '**/.angular',
      'packages/core/kernels',
      'packages/little-cms',
      'packages/core/src/kernels/binary.ts',
    ],
  },
  {
    files: ['**/*.ts'],
    extends: [...tseslint.configs.strictTypeChecked],
    languageOptions: {
      parserOptions: {
        // The same programs as are checked for types; each is read once.
        project: ['tsconfig.json', 'packages/core/tsconfig.json', 'apps/web/tsconfig.json', 'scripts/tsconfig.json'],
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: {
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true, allowBoolean: true, allowNullish: true }],
      '@typescript-eslint/no-non-null-assertion': 'off', // typed arrays inside bounds that the loop has just set
      '@typescript-eslint/no-extraneous-class': 'off',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-confusing-void-expression': 'off',
      '@typescript-eslint/no-unnecessary-condition': 'off',
      '@typescript-eslint/unbound-method': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
      '@typescript-eslint/no-misused-spread': 'off',
      '@typescript-eslint/no-unnecessary-type-parameters': 'off',
      '@typescript-eslint/no-dynamic-delete': 'off',
      'max-lines': ['error', 400],
      eqeqeq: 'error',
      'no-console': ['error', { allow: ['error'] }],
    },
  },
  {
    files: ['**/*.ts'],
    ignores: ['**/*.test.ts', 'packages/core/src/making/making.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "ImportSpecifier[imported.name='outputGeometry']",
          message: 'The size of an output comes from makingOf, which knows what else counts for it.',
        },
      ],
    },
  },
  ...LAYERS.map(({ folder, knows, types, not }) => ({
    files: [`${folder}/**/*.ts`],
    ignores: ['**/*.test.ts', '**/test/**'],
    rules: {
      '@typescript-eslint/no-restricted-imports': /** @type {['error', object]} */ ([
        'error',
        {
          patterns: [
            { group: ['@rundle/*', ...[...knows, ...types].map((name) => `!@rundle/${name}`)], message: NOT_KNOWN },
            ...(types.length ? [{ group: types.map((name) => `@rundle/${name}`), message: NOT_KNOWN, allowTypeImports: true }] : []),
            { group: not, message: NOT_KNOWN },
          ],
        },
      ]),
    },
  })),
  {
    files: ['apps/web/src/**/*.ts'],
    extends: [...angular.configs.tsRecommended],
    processor: angular.processInlineTemplates,
    rules: {
      '@angular-eslint/prefer-on-push-component-change-detection': 'error',
      '@angular-eslint/component-selector': ['error', { type: 'element', prefix: 'rd', style: 'kebab-case' }],
      '@typescript-eslint/consistent-type-imports': 'off', // injected classes have to be imported as values
    },
  },
  { files: ['apps/web/src/**/*.html'], extends: [...angular.configs.templateRecommended, ...angular.configs.templateAccessibility] },
);
