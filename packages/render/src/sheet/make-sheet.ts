import { rmSync } from 'node:fs';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { setTimeout as wait } from 'node:timers/promises';
import { printedPixels, type SheetLook } from '@rundle/core';
import type { Renderer } from '../pool/renderer';
import { SheetDocument, type SheetText } from './document';
import { printOf, type SheetPicture } from './print';

/** A picture of a sheet with what stands under it; it is opened when its turn comes. */
export interface SheetEntry {
  text: SheetText;
  /** @returns how it can be read, and what ends that; throws where it cannot */
  open: () => Promise<SheetPicture & { text?: SheetText; close: () => Promise<void> }>;
}

/**
 * Makes a PDF of pictures in rows, page by page; as many are in work as threads, and no more are held. A picture that cannot be read leaves its
 * room empty, with a word, and is told.
 * @param onPicture told of each that is in its place, with what was wrong
 * @throws RangeError before anything is written when there is no room for pictures
 */
export async function makeSheet(
  renderer: Renderer,
  look: SheetLook,
  entries: readonly SheetEntry[],
  to: Writable,
  onPicture: (index: number, error: unknown) => void,
  signal?: AbortSignal,
): Promise<void> {
  const document = new SheetDocument(look, entries.length);
  const box = printedPixels(document.layout.cells[0]!.picture);
  const folder = await mkdtemp(join(tmpdir(), 'rundle-sheet-'));
  // A process that is ended in the middle leaves nothing either.
  const clear = () => rmSync(folder, { recursive: true, force: true });
  process.once('exit', clear);
  const written = pipeline(document.stream, to, ...(signal ? [{ signal }] : []));
  written.catch(() => {}); // awaited below
  const make = async ({ open, text }: SheetEntry, index: number) => {
    try {
      const { close, text: found, ...picture } = await open();
      try {
        return { jpeg: await printOf(renderer, picture, box, folder, String(index)), text: found ?? text, error: null };
      } finally {
        await close();
      }
    } catch (error) {
      return { jpeg: null, text, error };
    }
  };
  try {
    const made = new Map<number, ReturnType<typeof make>>();
    for (const [index] of entries.entries()) {
      signal?.throwIfAborted();
      for (let next = index; next < Math.min(entries.length, index + renderer.size + 1); next++)
        if (!made.has(next)) made.set(next, make(entries[next]!, next));
      const { jpeg, text, error } = await made.get(index)!;
      made.delete(index);
      await document.add(jpeg, text);
      onPicture(index, error);
      // A receiver that is slower than this would have all pages held.
      while (document.stream.readableLength > MOST_HELD && !to.destroyed) await wait(LOOK_MS);
    }
    document.end();
    await written;
  } finally {
    process.off('exit', clear);
    clear();
  }
}

/** Bytes of a document that are held for a receiver. */
const MOST_HELD = 64e6;
/** How often it is looked whether the receiver has caught up, ms. */
const LOOK_MS = 50;
