import { type Alteration, alterationOf } from './cells';
import type { ManifestPage, SeenFile } from './manifest';

/**
 * What has become of a delivered file: byte for byte as it was, under its own name or another; its pixels as they were, with other metadata or
 * profile; the picture compressed again; made smaller or larger; altered, beyond what those do; not there. Or a file that was never delivered.
 */
export const VERDICTS = ['as-delivered', 'renamed', 'relabelled', 'compressed-again', 'resized', 'altered', 'missing', 'foreign'] as const;
export type VerdictKind = (typeof VERDICTS)[number];

export interface Verdict {
  kind: VerdictKind;
  /** Where it was delivered; null: it never was. */
  path: string | null;
  /** Where it is; null: nowhere. */
  found: string | null;
  /** Of a file that was compressed again or resized, what can be said of it. */
  says: string | null;
}

/** Bits of the difference hash in which a changed picture may differ from itself (common practice, no source). */
const ALIKE = 6;
/** The same where it lies in its place: a part of it may have been painted over. */
const ALIKE_IN_PLACE = 16;
/** How far the ratios of the sides of a resized picture may be apart, a share: each side is rounded. */
const SHAPE = 0.02;

/**
 * Holds files that were found against those that were delivered: first by their content, then by their place, then by what they look like. Each
 * is told once.
 * @param delivered what the manifest says, @param found what lies there now
 */
export function verdicts(delivered: readonly SeenFile[], found: readonly SeenFile[]): Verdict[] {
  const open = new Set(delivered);
  const left = new Set(found);
  const all = new Map<SeenFile, Verdict>();
  const settle = (was: SeenFile, is: SeenFile, kind: VerdictKind, says: string | null) => {
    open.delete(was);
    left.delete(is);
    all.set(was, { kind, path: was.path, found: is.path, says });
  };
  const byContent = new Map<string, SeenFile[]>();
  for (const one of found) byContent.set(one.sha256, [...(byContent.get(one.sha256) ?? []), one]);
  // Those in their place first, so that of two alike files none is told to be the other.
  for (const isInPlace of [true, false])
    for (const was of [...open]) {
      const is = byContent.get(was.sha256)?.find((one) => left.has(one) && (one.path === was.path || !isInPlace));
      if (is) settle(was, is, isInPlace ? 'as-delivered' : 'renamed', null);
    }
  const byPath = new Map(found.map((one) => [one.path, one]));
  for (const was of [...open]) {
    const is = byPath.get(was.path);
    if (is && left.has(is) && isSamePicture(was, is, ALIKE_IN_PLACE)) settle(was, is, ...changeOf(was, is));
  }
  const pairs = [...open].flatMap((was) =>
    [...left].filter((is) => isSamePicture(was, is)).map((is) => ({ was, is, off: bitsApart(was.likeness, is.likeness) })),
  );
  for (const { was, is } of pairs.sort((a, b) => a.off - b.off))
    if (open.has(was) && left.has(is)) {
      const [kind, says] = changeOf(was, is);
      settle(was, is, kind, says);
    }
  for (const was of open) all.set(was, { kind: 'missing', path: was.path, found: null, says: null });
  return [
    ...delivered.map((was) => all.get(was)!),
    ...[...left].map((is): Verdict => ({ kind: 'foreign', path: null, found: is.path, says: null })),
  ];
}

function isSamePicture(was: SeenFile, is: SeenFile, bits = ALIKE): boolean {
  const shape = (was.width * is.height) / (was.height * is.width);
  return Math.abs(Math.log(shape)) <= SHAPE && bitsApart(was.likeness, is.likeness) <= bits;
}

function changeOf(was: SeenFile, is: SeenFile): [kind: VerdictKind, says: string | null] {
  const alteration = alterationOf(was.cells, is.cells, is.quality);
  if (was.coded !== null && was.coded === is.coded)
    return ['relabelled', alteration ? 'which shows other colours: its profile is another' : null];
  const [kind, says] = codingOf(was, is);
  if (alteration) return ['altered', [alterationInWords(alteration, is), ...(kind === 'resized' && says ? [says] : [])].join('; ')];
  return [kind, alteration === undefined ? [says, 'whether it was altered cannot be told'].filter(Boolean).join('; ') : says];
}

/** How it was written again. */
function codingOf(was: SeenFile, is: SeenFile): [kind: 'resized' | 'compressed-again', says: string | null] {
  const size = `${is.width} × ${is.height} px instead of ${was.width} × ${was.height}`;
  const quality =
    is.quality === null ? '' : was.quality === null ? `quality about ${is.quality}` : `quality about ${is.quality}, was ${was.quality}`;
  if (is.width !== was.width || is.height !== was.height) return ['resized', [size, quality].filter(Boolean).join('; ')];
  return ['compressed-again', is.type === was.type ? quality || null : `${is.type} instead of ${was.type}`];
}

/** What was altered, and where: "between 600 and 760 px across, 120 and 200 px down". */
function alterationInWords(alteration: Alteration, { width, height }: SeenFile): string {
  switch (alteration.kind) {
    case 'all-over':
      return 'all over: brightness or colours';
    case 'saturation':
      return `colours are ${alteration.by > 0 ? 'stronger' : 'weaker'} by about ${Math.round(100 * Math.abs(alteration.by))} %`;
    case 'part': {
      const { x, y, width: w, height: h } = alteration;
      const between = (from: number, size: number, edge: number) => `${Math.round(from * edge)} and ${Math.round((from + size) * edge)} px`;
      return `between ${between(x, w, width)} across, ${between(y, h, height)} down`;
    }
  }
}

/**
 * Holds the pages of a delivery against what was delivered; what is no page of it is foreign.
 * @param found files that are no delivered pictures
 */
export function pageVerdicts(delivered: readonly ManifestPage[], found: readonly Pick<ManifestPage, 'path' | 'sha256'>[]): Verdict[] {
  const there = new Map(found.map(({ path, sha256 }) => [path, sha256]));
  const paths = new Set(delivered.map(({ path }) => path));
  const kindOf = ({ path, sha256 }: ManifestPage): VerdictKind =>
    there.get(path) === sha256 ? 'as-delivered' : there.has(path) ? 'altered' : 'missing';
  return [
    ...delivered.map((page): Verdict => {
      const kind = kindOf(page);
      return { kind, path: page.path, found: kind === 'missing' ? null : page.path, says: null };
    }),
    ...found.filter(({ path }) => !paths.has(path)).map(({ path }): Verdict => ({ kind: 'foreign', path: null, found: path, says: null })),
  ];
}

/** In how many of its 64 bits a fingerprint differs from another. */
export function bitsApart(a: string, b: string): number {
  let apart = 0;
  for (let bits = BigInt(`0x${a}`) ^ BigInt(`0x${b}`); bits; bits &= bits - 1n) apart++;
  return apart;
}

const WORDS: Record<VerdictKind, string> = {
  'as-delivered': 'as delivered',
  renamed: 'renamed',
  relabelled: 'other metadata or profile, the picture as delivered',
  'compressed-again': 'compressed again',
  resized: 'resized',
  altered: 'altered',
  missing: 'missing',
  foreign: 'not delivered by us',
};

/** A verdict in words: "web/a.jpg is now b.jpg: resized, 800 × 533 px instead of 2048 × 1365". */
export function verdictInWords({ kind, path, found, says }: Verdict): string {
  const name = path !== null && found !== null && path !== found ? `${path} is now ${found}` : (path ?? found ?? '');
  return `${name}: ${WORDS[kind]}${says ? `, ${says}` : ''}`;
}

/** "46 of 48 files are as delivered, 1 is renamed, 1 is missing." */
export function verdictsInShort(all: readonly Verdict[]): string {
  const delivered = all.filter(({ path }) => path !== null).length;
  const count = (kind: VerdictKind) => all.filter((one) => one.kind === kind).length;
  const rest = VERDICTS.slice(1).flatMap((kind) =>
    count(kind) ? [`${count(kind)} ${count(kind) === 1 ? 'is' : 'are'} ${SHORT[kind]}`] : [],
  );
  const whole = `${count('as-delivered')} of ${delivered} ${delivered === 1 ? 'file' : 'files'} ${count('as-delivered') === 1 ? 'is' : 'are'} as delivered`;
  return `${[whole, ...rest].join(', ')}.`;
}

const SHORT: Record<VerdictKind, string> = { ...WORDS, relabelled: 'relabelled', foreign: 'foreign' };
