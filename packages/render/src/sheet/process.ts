import { availableParallelism, setPriority } from 'node:os';
import { Writable } from 'node:stream';
import type { SheetLook } from '@rundle/core';
import { RenderPool } from '../pool/pool';
import type { SheetText } from './document';
import { makeSheet, type SheetEntry } from './make-sheet';
import type { SheetPicture } from './print';

/*
 * Makes one PDF beside the server, which holds the pictures open one by one and takes the document as it grows; ends with it.
 */

/** What it is asked for; then `opened`, for each picture that it wants. */
export type SheetOrder =
  | { kind: 'make'; look: SheetLook; names: string[] }
  /** Null: it cannot be opened. */
  | { kind: 'opened'; index: number; picture: (SheetPicture & { text: SheetText }) | null };

/** `want` and `done` are of the picture of that number. */
export type SheetNotice =
  | { kind: 'want'; index: number }
  | { kind: 'done'; index: number }
  | { kind: 'part'; data: Uint8Array }
  | { kind: 'ended' }
  | { kind: 'failed'; message: string };

/** Below what somebody waits for on a page: nice(2). */
const STANDS_BACK = 5;
setPriority(STANDS_BACK);

const tell = (notice: SheetNotice): Promise<void> =>
  new Promise((resolve, reject) => process.send!(notice, undefined, {}, (error) => (error ? reject(error) : resolve())));
type Opened = Extract<SheetOrder, { kind: 'opened' }>['picture'];
const waiting = new Map<number, (picture: Opened) => void>();

const entryOf = (name: string, index: number): SheetEntry => ({
  text: { name, title: null, credit: null },
  open: async () => {
    const answered = new Promise<Opened>((resolve) => waiting.set(index, resolve));
    await tell({ kind: 'want', index });
    const picture = await answered;
    if (!picture) throw new Error('It is not there.');
    return { ...picture, close: () => tell({ kind: 'done', index }) };
  },
});

async function make({ look, names }: Extract<SheetOrder, { kind: 'make' }>): Promise<void> {
  const pool = new RenderPool(new URL('./render-thread.js', import.meta.url), availableParallelism());
  const to = new Writable({
    write: (data: Buffer, _, done) => {
      tell({ kind: 'part', data }).then(() => done(), done);
    },
  });
  try {
    await makeSheet(pool, look, names.map(entryOf), to, () => {});
    await tell({ kind: 'ended' });
  } catch (error) {
    await tell({ kind: 'failed', message: error instanceof Error ? error.message : String(error) });
  } finally {
    await pool.close();
    process.disconnect();
  }
}

process.once('disconnect', () => process.exit(0));
process.on('message', (order: SheetOrder) => {
  if (order.kind === 'make') return void make(order);
  waiting.get(order.index)?.(order.picture);
  waiting.delete(order.index);
});
