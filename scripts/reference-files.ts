import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  bundleJsonSchema,
  decisionsJsonSchema,
  type Endpoint,
  ENDPOINTS,
  fieldAt,
  type FieldPath,
  FIELDS,
  FINDING_CODES,
  manifestJsonSchema,
  presetJsonSchema,
  PROBLEM_CODES,
  REQUEST_CODES,
  rulesAt,
} from '@rundle/core';
import { format } from 'prettier';
import type { ChildBounds } from '../packages/store/src/bounded-child';
import {
  COURIER_HEAP_MB,
  MARK_BOUNDS,
  SAMPLE_HEAP_MB,
  SAMPLE_RESTING_MB,
  SET_THREAD_HEAP_MB,
  TRIAL_BOUNDS,
} from '../packages/store/src/bounds';
import { MOST_MEMORY } from '../packages/render/src/read/exiftool';
import { LAYERS } from '../eslint.layers.mjs';
import { HEAP_MB, WORKER_MB } from './setup/bounds.mjs';

const ROOT = fileURLToPath(new URL('..', import.meta.url));

/** Documents that are made from the code, by their path: what is written there can never say something else. */
export async function referenceFiles(): Promise<Record<string, string>> {
  return {
    'docs/bundle.schema.json': `${JSON.stringify(bundleJsonSchema(), null, 2)}\n`,
    'docs/decisions.schema.json': `${JSON.stringify(decisionsJsonSchema(), null, 2)}\n`,
    'docs/manifest.schema.json': `${JSON.stringify(manifestJsonSchema(), null, 2)}\n`,
    'docs/preset.schema.json': `${JSON.stringify(presetJsonSchema(), null, 2)}\n`,
    'packages/core/src/api/addresses.ts': await format(addresses(), { parser: 'typescript', printWidth: 140, singleQuote: true }),
    'docs/codes.md': await markdown(codes()),
    'docs/architecture.md': await markdown(withSections('docs/architecture.md', { borders: borders() })),
    'docs/http.md': await markdown(withSections('docs/http.md', { endpoints: endpoints() })),
    'docs/reliability.md': await markdown(withSections('docs/reliability.md', { bounds: bounds() })),
    'docs/presets.md': await markdown(withSections('docs/presets.md', fields())),
  };
}

const markdown = (text: string): Promise<string> => format(text, { parser: 'markdown', printWidth: 140 });

const row = (...cells: (string | number)[]): string => `| ${cells.join(' | ')} |`;
const table = (head: readonly string[], rows: string[]): string => [row(...head), row(...head.map(() => '---')), ...rows].join('\n');

/** What pages need of the endpoints: without their schemas, which are most of what would have to be loaded. */
function addresses(): string {
  const lines = Object.entries<Endpoint>(ENDPOINTS).map(
    ([name, { method, path, ifMatch }]) => `  ${name}: ${JSON.stringify({ method, path, ...(ifMatch && { ifMatch }) })},`,
  );
  return [
    "import type { Method } from './endpoint';",
    "import type { EndpointName } from './endpoints';",
    '',
    '/** How each endpoint is called. Made from endpoints.ts by `npm run reference`; a test compares the two. */',
    'export const ADDRESSES: Readonly<Record<EndpointName, { method: Method; path: string; ifMatch?: true }>> = {',
    ...lines,
    '};',
    '',
  ].join('\n');
}

/** What each program may hold. */
function bounds(): string {
  const { look, finish } = SAMPLE_RESTING_MB;
  const seconds = ({ ms, cpuMs }: ChildBounds) => `${cpuMs / 1000} s of the processor, ${ms / 1000} s in all`;
  return table(
    ['program', 'heap of its script', 'in all', 'what happens then'],
    [
      row('server', `${HEAP_MB.server} MB`, '', 'it ends and is started again; pages wait'),
      row('its thread for plans', `${SET_THREAD_HEAP_MB} MB`, '', 'the call fails; the next one is answered'),
      row(
        'worker',
        `${HEAP_MB.worker} MB`,
        `${WORKER_MB.resting} MB at rest, ${WORKER_MB.between} MB between two pictures`,
        'it gives back its work and ends; another takes its place',
      ),
      row('ExifTool, one for each of these', '', `${MOST_MEMORY / 1e6} MB of addresses, 60 s`, 'that file’s metadata are told as unread'),
      row('samples that are looked at', `${SAMPLE_HEAP_MB} MB`, `${look} MB at rest`, 'it ends, and is started by the next sample'),
      row('samples of whole files', `${SAMPLE_HEAP_MB} MB`, `${finish} MB at rest`, 'the same'),
      row('courier', `${COURIER_HEAP_MB} MB`, '', 'it is started again, and goes on'),
      row(
        'trial of a receiver',
        `${TRIAL_BOUNDS.heapMB} MB`,
        `${TRIAL_BOUNDS.residentMB} MB, ${seconds(TRIAL_BOUNDS)}`,
        'the receiver is told as one that cannot be understood',
      ),
      row('check of a logo', `${MARK_BOUNDS.heapMB} MB`, `${MARK_BOUNDS.residentMB} MB, ${seconds(MARK_BOUNDS)}`, 'the logo is refused'),
      row('made-up receivers', `${HEAP_MB['stand-ins']} MB`, '', 'they are started again'),
    ],
  );
}

/** Which part knows which, as a picture: from the rules that hold it. What all know is left out of it. */
function borders(): string {
  const name = (folder: string) => folder.split('/').at(-1);
  const lines = LAYERS.flatMap(({ folder, knows, types }) => [
    ...knows.filter((other) => other !== 'core').map((other) => `  ${name(folder)} --> ${other}`),
    ...types.map((other) => `  ${name(folder)} -. its types .-> ${other}`),
  ]);
  return ['```mermaid', 'flowchart TB', ...lines, '```'].join('\n');
}

function codes(): string {
  const problems = Object.entries(PROBLEM_CODES).map(([code, { means, toDo }]) => row(`\`${code}\``, means, toDo));
  const requests = Object.entries(REQUEST_CODES).map(([code, { status, means, toDo }]) => row(`\`${code}\``, status, means, toDo));
  const findings = Object.entries(FINDING_CODES).map(([code, { severity, means, toDo }]) => row(`\`${code}\``, severity, means, toDo));
  return [
    '# Codes',
    'Made by `npm run reference` from `packages/core/src/codes/`. A code is for programs and never gets another meaning; the message',
    'beside it is for people and says the same with names and figures.',
    '## Of requests',
    'A request may also end with one of the problems below, for instance an upload with `too-heavy`.',
    table(['code', 'status', 'what it means', 'what to do'], requests),
    '## Problems',
    'Something did not go as it should: a picture, an output, a preset, an upload.',
    table(['code', 'what it means', 'what to do'], problems),
    '## Findings',
    'Something worth telling, though nothing has failed. `note`: for information; `look`: something may go wrong.',
    table(['code', 'severity', 'what it means', 'what to do'], findings),
  ].join('\n\n');
}

function endpoints(): string {
  const rows = Object.entries<Endpoint>(ENDPOINTS).map(([name, { method, path, summary, errors = [] }]) =>
    row(`\`${method.toUpperCase()} ${path}\``, `\`${name}\``, summary, errors.map((code) => `\`${code}\``).join(', ')),
  );
  return table(['call', 'name', 'what it does', 'may end with'], rows);
}

/** Which fields stand in which table of docs/presets.md. */
const TABLES = {
  general: /^(title|notes|applies)\b/,
  size: /^size\b/,
  tone: /^tone\b/,
  colour: /^colour\b/,
  sharpen: /^sharpen\b/,
  mark: /^(mark|border)\b/,
  print: /^(panels|canvas)\b/,
  file: /^file\b/,
  metadata: /^metadata\b/,
  name: /^(name|folder|place|existing)\b/,
};

function fields(): Record<string, string> {
  const paths = Object.keys(FIELDS) as FieldPath[];
  return Object.fromEntries(
    Object.entries(TABLES).map(([name, belongs]) => [
      `fields ${name}`,
      table(['field', 'called', 'default', 'allowed', 'what it does'], paths.filter((path) => belongs.test(path)).map(fieldRow)),
    ]),
  );
}

function fieldRow(path: FieldPath): string {
  const { label, help, editor, suggestions } = fieldAt(path)!;
  const { allowed, byDefault } = rulesAt(path);
  const words = suggestions.map(({ value, label: says }) => (says === value ? `\`${says}\`` : `\`${String(value)}\` (${says})`)).join(', ');
  const all = /^one of|^8 or 16|^true or false/.test(allowed) && editor !== 'number' ? words : allowed;
  return row(`\`${path}\``, label, byDefault === undefined ? '–' : `\`${JSON.stringify(byDefault)}\``, all, help);
}

/** A document with what stands between its `<!-- name -->` and `<!-- /name -->` put in place. */
function withSections(path: string, sections: Readonly<Record<string, string>>): string {
  return Object.entries(sections).reduce(
    (text, [name, section]) => {
      const between = new RegExp(`(<!-- ${name} -->)[^]*(<!-- /${name} -->)`);
      if (!between.test(text)) throw new Error(`${path} has no section ${name}.`);
      return text.replace(between, (_, begin: string, end: string) => `${begin}\n\n${section}\n\n${end}`);
    },
    readFileSync(join(ROOT, path), 'utf8'),
  );
}
