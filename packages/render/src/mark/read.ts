import { readFile } from 'node:fs/promises';
import { extname, resolve } from 'node:path';
import { fieldProblems, jsonOrNull, type ProblemCode, ProblemError, type SavedMark, TextWatermark, type Watermark } from '@rundle/core';

/**
 * Reads the watermark that a preset names as a file: a PNG, an SVG, or a `*.watermark.json` with a line of text.
 * @param name path, as the preset has it
 * @param folder what relative paths start from: the preset's own folder
 * @throws ProblemError with the field `mark.watermark`; the picture itself is checked when it is drawn
 */
export async function readWatermark(name: string, folder: string): Promise<Watermark> {
  const problem = (code: ProblemCode, message: string) => new ProblemError({ code, field: 'mark.watermark', message });
  const data = await readFile(resolve(folder, name)).catch((): never => {
    throw problem('watermark-missing', `The watermark ${name} cannot be read (mark.watermark). Its path starts at the preset’s folder.`);
  });
  switch (extname(name).toLowerCase()) {
    case '.png':
      return { kind: 'png', data: new Uint8Array(data), dark: null };
    case '.svg':
      return { kind: 'svg', data: new Uint8Array(data), dark: null };
    case '.json': {
      const json = jsonOrNull(data.toString('utf8'));
      const parsed = TextWatermark.safeParse(json);
      if (!parsed.success)
        throw problem(
          'watermark-unreadable',
          `${name}: ${fieldProblems(parsed.error, json, 'watermark-field', TextWatermark)[0]?.message ?? 'no JSON.'}`,
        );
      return markOf(parsed.data);
    }
    default:
      throw problem('watermark-unreadable', `The watermark ${name} is none of .png, .svg and .watermark.json (mark.watermark).`);
  }
}

/** A watermark out of a file, ready to be drawn. */
export function markOf(saved: SavedMark): Watermark {
  if (saved.kind === 'rundle.watermark') {
    const { text, colour, typeface, edge, adapt } = saved;
    return { kind: 'text', text, colour, typeface, edge, adapt };
  }
  const bytes = (base64: string) => new Uint8Array(Buffer.from(base64, 'base64'));
  return { kind: saved.kind, data: bytes(saved.data), dark: saved.dark === null ? null : bytes(saved.dark) };
}
