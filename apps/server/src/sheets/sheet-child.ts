import { type ChildProcess, fork } from 'node:child_process';
import { once } from 'node:events';
import type { Writable } from 'node:stream';
import type { SheetLook } from '@rundle/core';
import type { SheetNotice, SheetOrder, SheetPicture, SheetText } from '@rundle/render';

/** A picture of a sheet: its name, and how it is opened, with all that stands under it, when its turn comes. */
export interface SheetSource {
  name: string;
  /** Null: it is not there. */
  open: () => Promise<(SheetPicture & { text: SheetText; close: () => Promise<void> }) | null>;
}

/**
 * Makes a PDF in a process beside the server, and sends it as it grows.
 * @param program path of the bundled `sheet-process`
 * @param to gets the first byte when the first page stands
 * @param dropped aborted when nobody waits for it any more
 * @throws Error when the process ends before the document does
 */
export async function sendSheet(
  program: string,
  look: SheetLook,
  sources: readonly SheetSource[],
  to: Writable,
  dropped: AbortSignal,
): Promise<void> {
  dropped.throwIfAborted();
  const child = fork(program, { serialization: 'advanced', execArgv: ['--max-old-space-size=1024'] });
  const open = new Map<number, () => Promise<void>>();
  // It ends itself when nobody listens any more, and clears up; one that hangs is ended.
  const stop = () => {
    if (child.connected) child.disconnect();
    setTimeout(() => child.kill('SIGKILL'), MOST_ENDING).unref();
  };
  dropped.addEventListener('abort', stop, { once: true });
  try {
    await new Promise<void>((resolve, reject) => {
      // In their order: parts of a document that overtook each other would be none.
      let turn = Promise.resolve();
      child.on('message', (notice: SheetNotice) => {
        turn = turn.then(() => hear(child, notice, { sources, open, to }, resolve)).catch(reject);
      });
      child.once('error', reject);
      child.once('exit', (code) => void turn.finally(() => reject(new Error(`The sheet was not finished (${code ?? 'killed'}).`))));
      order(child, { kind: 'make', look, names: sources.map(({ name }) => name) });
    });
  } finally {
    dropped.removeEventListener('abort', stop);
    stop();
    for (const close of open.values()) await close().catch(() => {});
  }
}

/** How long a process may take to end itself, ms. */
const MOST_ENDING = 3000;

interface Making {
  sources: readonly SheetSource[];
  open: Map<number, () => Promise<void>>;
  to: Writable;
}

async function hear(child: ChildProcess, notice: SheetNotice, { sources, open, to }: Making, ended: () => void): Promise<void> {
  switch (notice.kind) {
    case 'want': {
      const { index } = notice;
      const found = await sources[index]!.open().catch(() => null);
      if (found) open.set(index, found.close);
      const picture = found && { path: found.path, facts: found.facts, decisions: found.decisions, text: found.text };
      return order(child, { kind: 'opened', index, picture });
    }
    case 'done':
      await open.get(notice.index)?.();
      open.delete(notice.index);
      return;
    case 'part':
      if (!to.write(notice.data) && !to.destroyed) await Promise.race([once(to, 'drain'), once(to, 'close')]);
      return;
    case 'ended':
      return ended();
    case 'failed':
      throw new Error(notice.message);
  }
}

/** To one that has ended already, which is told elsewhere, nothing can be said. */
const order = (child: ChildProcess, message: SheetOrder): void => {
  if (child.connected) child.send(message, () => {});
};
