// @ts-check
/*
 * Which parts of the project may know which: the lint rules and the picture in docs/architecture.md are made from this.
 */

/**
 * @typedef {object} Layer
 * @property {string} folder
 * @property {string[]} knows other parts that it may use
 * @property {string[]} types parts of which it may use the types only
 * @property {string[]} not packages from elsewhere that it has no business with
 */

/** @type {readonly Layer[]} */
export const LAYERS = [
  { folder: 'packages/core', knows: [], types: [], not: ['node:*', '@angular/*', 'sharp', 'express'] },
  { folder: 'packages/place', knows: ['core'], types: [], not: ['@angular/*', 'sharp', 'express'] },
  { folder: 'packages/watch', knows: ['core'], types: [], not: ['@angular/*', 'sharp', 'express'] },
  { folder: 'packages/transport', knows: ['core'], types: [], not: ['@angular/*', 'sharp', 'express'] },
  { folder: 'packages/store', knows: ['core', 'place'], types: [], not: ['@angular/*', 'sharp', 'express'] },
  { folder: 'packages/render', knows: ['core', 'little-cms', 'place', 'watch'], types: [], not: ['@angular/*', 'express'] },
  // The server has the engine work in programs of its own, and knows what is said to them.
  {
    folder: 'apps/server',
    knows: ['core', 'demo', 'place', 'store', 'watch'],
    types: ['render'],
    not: ['@angular/*', 'sharp'],
  },
  { folder: 'apps/worker', knows: ['core', 'place', 'render', 'store'], types: [], not: ['@angular/*', 'express'] },
  { folder: 'apps/courier', knows: ['core', 'place', 'render', 'store', 'transport'], types: [], not: ['@angular/*', 'express'] },
  { folder: 'apps/keeper', knows: ['core', 'place', 'store'], types: [], not: ['@angular/*', 'express', 'sharp'] },
  { folder: 'apps/web', knows: ['core'], types: [], not: ['node:*', 'sharp', 'express'] },
  { folder: 'stand-ins', knows: ['core'], types: [], not: ['@angular/*'] },
];
