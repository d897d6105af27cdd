import { mkdtemp, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, dirname, join, resolve } from 'node:path';

/**
 * Does something with paths for a program that is told them line by line: one with a line break in it is stood for by a link meanwhile.
 * @param texts paths, and other arguments, which stay as they are
 */
export async function withoutLineBreaks<T>(texts: readonly string[], act: (texts: string[]) => Promise<T>): Promise<T> {
  if (!texts.some(hasBreak)) return act([...texts]);
  const folder = await mkdtemp(join(tmpdir(), 'rundle-alias-'));
  try {
    const aliases = texts.map(async (text, at) => {
      if (!hasBreak(text)) return text;
      const path = resolve(text);
      const link = join(folder, String(at));
      // The folder, where that is enough: what is written beside a file lies beside it then, too.
      const isOfFolder = !hasBreak(basename(path));
      await symlink(isOfFolder ? dirname(path) : path, link);
      return isOfFolder ? join(link, basename(path)) : link;
    });
    return await act(await Promise.all(aliases));
  } finally {
    await rm(folder, { recursive: true });
  }
}

const hasBreak = (text: string): boolean => /[\r\n]/.test(text);
