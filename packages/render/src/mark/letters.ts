import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { isBright, type MarkEdge, markColourOn, type PixelSize, ProblemError, type Typeface, type Watermark } from '@rundle/core';
import opentype, { type Font, type Path } from 'opentype.js';

const packages = createRequire(import.meta.url);

/** Source Sans 3, Source Serif 4 and Source Code Pro, semibold (SIL Open Font License 1.1): western letters, then those of the rest of Europe. */
const FAMILIES = { sans: 'source-sans-3', serif: 'source-serif-4', mono: 'source-code-pro' } as const satisfies Record<Typeface, string>;

/** Units that text is set in; it is scaled when it is drawn. */
const SIZE = 100;

const loading = new Map<Typeface, Promise<Font[]>>();

function fonts(typeface: Typeface): Promise<Font[]> {
  const family = FAMILIES[typeface];
  const known =
    loading.get(typeface) ??
    Promise.all(['latin', 'latin-ext'].map((letters) => load(`@fontsource/${family}/files/${family}-${letters}-600-normal.woff`)));
  loading.set(typeface, known);
  return known;
}

async function load(file: string): Promise<Font> {
  const { buffer, byteOffset, byteLength } = await readFile(packages.resolve(file));
  return opentype.parse(buffer.slice(byteOffset, byteOffset + byteLength));
}

/** Room around the letters for what sets them off, in units of the text. */
const EDGE_ROOM: Record<MarkEdge, number> = { none: 0, outline: 4, shadow: 16 };

/**
 * A line of text as an SVG of its outlines: the same on every machine, whatever fonts that has.
 * @param colour `#rrggbb`; an edge is dark around bright letters, and bright around dark ones
 * @returns the SVG, cut close around the letters and their edge, and its shape
 * @throws ProblemError `watermark-letters` when the font that ships has no such letter
 */
export async function textAsSvg({ text, colour, typeface, edge }: Lettering): Promise<{ svg: string; shape: PixelSize }> {
  const all = await fonts(typeface);
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
  const room = EDGE_ROOM[edge];
  const left = Math.min(...boxes.map(({ x1 }) => x1)) - room;
  const top = Math.min(...boxes.map(({ y1 }) => y1)) - room;
  const shape = {
    width: Math.max(...boxes.map(({ x2 }) => x2)) + room - left,
    height: Math.max(...boxes.map(({ y2 }) => y2)) + room - top,
  };
  const outlines = paths.map(pathData).join('');
  const box = `${left} ${top} ${shape.width} ${shape.height}`;
  const letters = `<path fill="${colour}" d="${outlines}"/>`;
  return { svg: `<svg xmlns="http://www.w3.org/2000/svg" viewBox="${box}">${underneath(edge, colour, outlines)}${letters}</svg>`, shape };
}

/** A path as SVG writes it, in hundredths. The library's own way of rounding makes some numbers NaN, and letters end there. */
function pathData({ commands }: Path): string {
  const at = (...numbers: number[]) => numbers.map((value) => value.toFixed(2)).join(' ');
  return commands
    .map((command) => {
      switch (command.type) {
        case 'Z':
          return 'Z';
        case 'Q':
          return `Q${at(command.x1, command.y1, command.x, command.y)}`;
        case 'C':
          return `C${at(command.x1, command.y1, command.x2, command.y2, command.x, command.y)}`;
        default:
          return `${command.type}${at(command.x, command.y)}`;
      }
    })
    .join('');
}

type Lettering = Pick<Extract<Watermark, { kind: 'text' }>, 'text' | 'colour' | 'typeface' | 'edge'>;

/** What sets the letters off: a line around them, or a soft shadow below and to the right. */
function underneath(edge: MarkEdge, colour: string, outlines: string): string {
  if (edge === 'none') return '';
  const against = markColourOn(isBright(colour) ? 'bright' : 'dark', colour);
  if (edge === 'outline')
    return `<path fill="none" stroke="${against}" stroke-width="${2 * EDGE_ROOM.outline}" stroke-linejoin="round" d="${outlines}"/>`;
  // Several faint strokes, wide to narrow: the same on every machine, where a blur is not.
  const strokes = [14, 11, 8, 5, 2].map(
    (width) =>
      `<path fill="${against}" fill-opacity="0.16" stroke="${against}" stroke-opacity="0.16" stroke-width="${width}" stroke-linejoin="round" d="${outlines}"/>`,
  );
  return `<g transform="translate(3 4)">${strokes.join('')}</g>`;
}
