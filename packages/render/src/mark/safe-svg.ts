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
  visit(root);
}

function visit(element: Element): void {
  const name = element.localName ?? '';
  if (REFUSED.has(name) || name.startsWith('animate')) throw unsafe(`the element <${name}>`);
  if (name === 'style') refuseStyle(element.textContent ?? '', '<style>');
  for (const attribute of Array.from(element.attributes)) {
    const { localName, value } = attribute;
    if (/^on/i.test(localName ?? '')) throw unsafe(`the attribute ${localName}, which runs a script`);
    const inside = /^(?:#|data:image\/(?:png|jpeg|webp);)/i.test(value.trim());
    if (REFERENCES.has(localName ?? '') && value.trim() && !inside) throw unsafe(`a reference to “${value.trim().slice(0, 60)}”`);
    refuseStyle(value, localName ?? '');
  }
  for (const child of Array.from(element.childNodes)) if (child.nodeType === 1) visit(child as Element);
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
