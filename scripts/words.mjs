// @ts-check
// npm run words: every word that a screen can say, by the file that says it, in dist/words.txt: to be read once as a photographer would.
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import ts from 'typescript';
import { ROOT } from './setup/stale.mjs';
import { say } from './setup/say.mjs';

const { parseTemplate } = await import('@angular/compiler');
const ATTRIBUTES = new Set(['title', 'aria-label', 'placeholder', 'alt', 'nzLabel', 'nzPlaceHolder', 'rdName', 'what', 'action', 'hint']);
/** Folders of the core whose sentences stand on screens. */
const SAYING = ['preset', 'parts', 'tone', 'plan', 'vet', 'codes', 'types', 'proof', 'record', 'standing-order', 'deliver', 'decisions'];

/**
 * What a template says: its text, and the attributes that are read out or shown.
 * @param {string} template
 */
function saidIn(template) {
  /** @type {string[]} */
  const words = [];
  /** @param {unknown} node */
  const walk = (node) => {
    if (Array.isArray(node)) return node.forEach(walk);
    if (node === null || typeof node !== 'object') return;
    const { name, value, inputs, attributes, ...rest } = /** @type {Record<string, any>} */ (node);
    const kind = node.constructor.name;
    if (kind.startsWith('Text') && !kind.startsWith('TextAttribute') && typeof value === 'string') words.push(value);
    if (kind.startsWith('BoundText')) words.push(value.source ?? '');
    for (const attribute of attributes ?? []) if (ATTRIBUTES.has(attribute.name)) words.push(attribute.value);
    for (const input of inputs ?? []) if (ATTRIBUTES.has(input.name)) words.push(input.value?.source ?? '');
    for (const key of ['children', 'branches', 'cases', 'groups', 'empty', 'placeholder', 'loading', 'error']) walk(rest[key]);
  };
  walk(parseTemplate(template, 'template.html', { preserveWhitespaces: false }).nodes);
  return words;
}

/**
 * What a file says: its templates, and strings that are no names of something in the code.
 * @param {string} path
 */
function saidBy(path) {
  const text = readFileSync(path, 'utf8');
  if (path.endsWith('.html')) return saidIn(text);
  /** @type {string[]} */
  const words = [];
  /** @param {import('typescript').Node} node */
  const walk = (node) => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) return;
    if (ts.isPropertyAssignment(node)) {
      const name = node.name.getText();
      if (name === 'template' && ts.isStringLiteralLike(node.initializer)) return void words.push(...saidIn(node.initializer.text));
      if (['styles', 'selector', 'styleUrl', 'templateUrl', 'host'].includes(name)) return;
    }
    if (ts.isStringLiteralLike(node) && /[A-Za-z].* .*[A-Za-z]/.test(node.text)) words.push(node.text);
    if (ts.isTemplateExpression(node)) {
      const parts = [node.head.text, ...node.templateSpans.map(({ literal }) => literal.text)];
      if (/[A-Za-z]{2}.* /.test(parts.join(' '))) words.push(parts.join('…'));
    }
    node.forEachChild(walk);
  };
  walk(ts.createSourceFile(path, text, ts.ScriptTarget.Latest, true));
  return words;
}

/** @param {string} folder */
const below = (folder) =>
  readdirSync(join(ROOT, folder), { recursive: true, encoding: 'utf8' })
    .filter((path) => /\.(ts|html)$/.test(path))
    .map((path) => join(folder, path));
const files = ['apps/web/src/app', ...SAYING.map((folder) => `packages/core/src/${folder}`)]
  .flatMap(below)
  .filter((path) => !/test\.ts$|sample-/.test(path));
const told = files.sort().flatMap((path) => {
  const words = [...new Set(saidBy(join(ROOT, path)).map((one) => one.replace(/\s+/g, ' ').trim()))].filter((one) =>
    /[A-Za-z]{2}/.test(one),
  );
  return words.length ? [`\n## ${path}`, ...words] : [];
});
const out = join(ROOT, 'dist/words.txt');
mkdirSync(dirname(out), { recursive: true });
writeFileSync(out, `${told.join('\n')}\n`);
say(`${told.length} lines in ${out}`);
