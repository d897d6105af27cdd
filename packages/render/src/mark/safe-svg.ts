import { ProblemError } from '@rundle/core';
import { DOMParser, type Element } from '@xmldom/xmldom';

/** Elements that run, embed or animate something; a watermark is a still picture. */
const REFUSED = new Set([
  'script',
  'foreignObject',
  'iframe',
  'object',
  'embed',
  'audio',
  'video',
  'handler',
  'listener',
  'set',
  'animate',
]);
const REFERENCES = new Set(['href', 'src', 'data']);

/**
 * Refuses an SVG that would run scripts or look outside itself: for another file, an address on the network, or an entity.
 * @param svg text of the file
 * @throws ProblemError `watermark-unsafe` that names what is wrong, or `watermark-unreadable`
 */
export function refuseUnsafeSvg(svg: string): void {
  if (/<!(?:DOCTYPE|ENTITY)/i.test(svg)) throw unsafe('a document type, which may pull in other files');
  if (/<\?xml-stylesheet/i.test(svg)) throw unsafe('a style sheet in another file');
  let root: Element | null = null;
  try {
    root = new DOMParser({ onError: (level, message) => level !== 'warning' && fail(message) }).parseFromString(
      svg,
      'image/svg+xml',
    ).documentElement;
  } catch (error) {
    throw unreadable(error instanceof Error ? error.message : String(error));
  }
  if (root?.localName !== 'svg') throw unreadable('its outermost element is not svg');
  visit(root, 0);
  if (drawnElements(root) > MOST_ELEMENTS) throw unsafe(`more than ${MOST_ELEMENTS} elements to draw, those counted that are used again`);
}

/** Elements that may have to be drawn: a detailed logo has some thousands. */
const MOST_ELEMENTS = 50_000;
/** How deep elements may lie in others. */
const DEEPEST = 200;

/** Elements that have no parts to be drawn again and again. */
const FLAT = new Set(['linearGradient', 'radialGradient', 'stop']);

/**
 * How many elements have to be drawn, each as often as it is used: a few that use others which use others are thousands of millions.
 * @throws ProblemError when one uses itself
 */
function drawnElements(root: Element): number {
  const byId = new Map<string, Element>();
  const gather = (element: Element): void => {
    const id = element.getAttribute('id');
    if (id) byId.set(id, element);
    childrenOf(element).forEach(gather);
  };
  gather(root);
  const counts = new Map<Element, number>();
  const open = new Set<Element>();
  const count = (element: Element): number => {
    const known = counts.get(element);
    if (known !== undefined) return known;
    if (open.has(element)) throw unsafe('an element that uses itself');
    open.add(element);
    let total = 1;
    for (const child of childrenOf(element)) total += count(child);
    for (const target of targetsOf(element)) {
      const found = byId.get(target);
      // What lies around it is drawn once; within a definition it may not stand itself.
      if (found && !FLAT.has(found.localName ?? '')) total += count(found);
    }
    open.delete(element);
    counts.set(element, Math.min(total, Number.MAX_SAFE_INTEGER));
    return counts.get(element)!;
  };
  return count(root);
}

const childrenOf = (element: Element): Element[] =>
  Array.from(element.childNodes).filter((child): child is Element => child.nodeType === 1);

/** Ids of what an element refers to. */
function targetsOf(element: Element): string[] {
  if (element.localName === 'style') return [...(element.textContent ?? '').matchAll(TARGET)].map(([, id]) => id!);
  return Array.from(element.attributes).flatMap(({ localName, value }) =>
    localName === 'href' && value.trim().startsWith('#') ? [value.trim().slice(1)] : [...value.matchAll(TARGET)].map(([, id]) => id!),
  );
}

const TARGET = /url\(\s*["']?\s*#([^"')\s]+)/gi;

/** Attributes that are read as style (SVG 2, 6.6), of those that may refer to something. */
const STYLES = new Set([
  'style',
  'fill',
  'stroke',
  'filter',
  'mask',
  'clip-path',
  'cursor',
  'marker',
  'marker-start',
  'marker-mid',
  'marker-end',
]);

function visit(element: Element, depth: number): void {
  if (depth > DEEPEST) throw unsafe(`elements that lie more than ${DEEPEST} deep in others`);
  const name = element.localName ?? '';
  if (REFUSED.has(name) || name.startsWith('animate')) throw unsafe(`the element <${name}>`);
  if (name === 'style') {
    refuseEscapes(element.textContent ?? '', '<style>');
    refuseStyle(element.textContent ?? '', '<style>');
  }
  for (const attribute of Array.from(element.attributes)) {
    const { localName, value } = attribute;
    if (/^on/i.test(localName ?? '')) throw unsafe(`the attribute ${localName}, which runs a script`);
    const inside = /^(?:#|data:image\/(?:png|jpeg|webp);)/i.test(value.trim());
    if (REFERENCES.has(localName ?? '') && value.trim() && !inside) throw unsafe(`a reference to “${value.trim().slice(0, 60)}”`);
    if (STYLES.has(localName ?? '')) refuseEscapes(value, localName ?? '');
    refuseStyle(value, localName ?? '');
  }
  for (const child of childrenOf(element)) visit(child, depth + 1);
}

/** Written with escapes (CSS Syntax 3, 4.3.7), a reference to elsewhere does not look like one. */
function refuseEscapes(text: string, where: string): void {
  if (text.includes('\\')) throw unsafe(`an escaped sign in ${where}`);
}

/** Style may refer to things inside the picture only. */
function refuseStyle(text: string, where: string): void {
  if (/@import/i.test(text)) throw unsafe(`an import in ${where}`);
  for (const [, target = ''] of text.matchAll(/url\(\s*["']?\s*([^)"']*)/gi))
    if (!target.startsWith('#') && !/^data:image\/(?:png|jpeg|webp);/i.test(target))
      throw unsafe(`a reference to “${target.slice(0, 60)}” in ${where}`);
}

function fail(message: string): never {
  throw new Error(message);
}

const unsafe = (what: string) =>
  new ProblemError({
    code: 'watermark-unsafe',
    message: `The SVG has ${what}. A watermark may neither run anything nor refer outside itself: take that out, or use a PNG.`,
  });

const unreadable = (why: string) =>
  new ProblemError({
    code: 'watermark-unreadable',
    message: `The SVG cannot be read: ${why.split('\n')[0]}. Export it again, or use a PNG.`,
  });
