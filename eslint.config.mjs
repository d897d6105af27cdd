// @ts-check
import angular from 'angular-eslint';
import { defineConfig } from 'eslint/config';
import tseslint from 'typescript-eslint';

/** Which parts of the project may know which: core knows nobody, render knows core, and so on up. */
const LAYERS = [
  { files: ['packages/core/**'], forbidden: ['@rundle/*', 'node:*', '@angular/*', 'sharp', 'express'] },
  { files: ['packages/render/**'], forbidden: ['@rundle/store', '@rundle/server', '@rundle/demo', '@angular/*'] },
  { files: ['packages/place/**'], forbidden: ['@rundle/render', '@rundle/store', '@rundle/server', '@rundle/demo', '@angular/*'] },
  { files: ['packages/watch/**'], forbidden: ['@rundle/render', '@rundle/store', '@rundle/server', '@rundle/demo', '@angular/*'] },
  { files: ['packages/transport/**'], forbidden: ['@rundle/render', '@rundle/store', '@rundle/server', '@rundle/demo', '@angular/*'] },
  { files: ['packages/store/**'], forbidden: ['@rundle/render', '@rundle/server', '@rundle/demo', '@angular/*'] },
  { files: ['stand-ins/**'], forbidden: ['@rundle/render', '@rundle/store', '@rundle/server', '@rundle/demo', '@angular/*'] },
  { files: ['apps/server/**'], forbidden: ['@rundle/render', '@angular/*', 'sharp'] },
  { files: ['apps/courier/**'], forbidden: ['@rundle/server', '@rundle/demo', '@angular/*', 'express'] },
  { files: ['apps/worker/**'], forbidden: ['@rundle/server', '@rundle/demo', '@angular/*', 'express'] },
  { files: ['apps/web/**'], forbidden: ['@rundle/render', '@rundle/store', '@rundle/server', '@rundle/demo', 'node:*'] },
];

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
  ...LAYERS.map(({ files, forbidden }) => ({
    files: files.map((folder) => `${folder}/*.ts`),
    ignores: ['**/*.test.ts', '**/test/**'],
    rules: {
      '@typescript-eslint/no-restricted-imports': /** @type {['error', object]} */ ([
        'error',
        {
          patterns: [
            {
              group: forbidden,
              message: 'This layer may not know that one; see docs/architecture.md.',
              // The server has the engine make samples in a process of its own, and knows what is said to it.
              allowTypeImports: files.includes('apps/server/**'),
            },
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
