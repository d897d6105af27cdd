import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { type PixelSize, ProblemError } from '@rundle/core';
import opentype, { type Font, type Path } from 'opentype.js';

const packages = createRequire(import.meta.url);

/** Source Sans 3 semibold (SIL Open Font License 1.1): its western letters, then those of the rest of Europe. */
const FILES = ['latin', 'latin-ext'].map((letters) => `@fontsource/source-sans-3/files/source-sans-3-${letters}-600-normal.woff`);

/** Units that text is set in; it is scaled when it is drawn. */
const SIZE = 100;

let loading: Promise<Font[]> | undefined;

function fonts(): Promise<Font[]> {
  loading ??= Promise.all(
    FILES.map(async (file) => {
      const { buffer, byteOffset, byteLength } = await readFile(packages.resolve(file));
      return opentype.parse(buffer.slice(byteOffset, byteOffset + byteLength));
    }),
  );
  return loading;
}

/**
 * A line of text as an SVG of its outlines: the same on every machine, whatever fonts that has.
 * @param colour `#rrggbb`
 * @returns the SVG, cut close around the letters, and its shape
 * @throws ProblemError `watermark-letters` when the font that ships has no such letter
 */
export async function textAsSvg(text: string, colour: string): Promise<{ svg: string; shape: PixelSize }> {
  const all = await fonts();
  let x = 0;
  const paths: Path[] = [];
  for (const letter of text) {
    const font = all.find((candidate) => candidate.charToGlyphIndex(letter) > 0);
    if (!font)
      throw new ProblemError({
        code: 'watermark-letters',
        message: `The font of watermarks has no “${letter}”. Use other letters, or a logo as PNG or SVG.`,
      });
    paths.push(font.getPath(letter, x, 0, SIZE));
    x += font.getAdvanceWidth(letter, SIZE);
  }
  const boxes = paths.map((path) => path.getBoundingBox()).filter(({ x1, x2 }) => x2 > x1);
  if (boxes.length === 0)
    throw new ProblemError({ code: 'watermark-empty', message: 'The watermark is only spaces. Write a text, or use a logo.' });
  const left = Math.min(...boxes.map(({ x1 }) => x1));
  const top = Math.min(...boxes.map(({ y1 }) => y1));
  const shape = { width: Math.max(...boxes.map(({ x2 }) => x2)) - left, height: Math.max(...boxes.map(({ y2 }) => y2)) - top };
  const outlines = paths.map((path) => path.toPathData(2)).join('');
  const box = `${left} ${top} ${shape.width} ${shape.height}`;
  return { svg: `<svg xmlns="http://www.w3.org/2000/svg" viewBox="${box}"><path fill="${colour}" d="${outlines}"/></svg>`, shape };
}
