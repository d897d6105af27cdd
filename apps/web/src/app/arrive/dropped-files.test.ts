import { describe, expect, it } from 'vitest';
import { droppedFiles, type FoundFile, pickedFiles } from './dropped-files';

type Tree = { [name: string]: Tree | null };

/** An entry as browsers give it: folders tell a hundred of their entries at a time. */
function entry(name: string, tree: Tree | null): FileSystemEntry {
  if (tree === null) return { name, isFile: true, isDirectory: false, file: (take: FileCallback) => take(new File(['x'], name)) } as never;
  const parts: FileSystemEntry[][] = [];
  const children = Object.entries(tree).map(([child, below]) => entry(child, below));
  for (let at = 0; at < children.length; at += 100) parts.push(children.slice(at, at + 100));
  const createReader = () => ({ readEntries: (take: FileSystemEntriesCallback) => take(parts.shift() ?? []) });
  return { name, isFile: false, isDirectory: true, createReader } as never;
}

const drop = (tree: Tree): DataTransferItemList =>
  Object.entries(tree).map(([name, below]) => ({ webkitGetAsEntry: () => entry(name, below) })) as never;
const shown = (found: readonly FoundFile[]) => found.map(({ file, depth }) => `${depth} ${file.name}`);

describe('files that are dropped', () => {
  it('come in natural order, with how deep they lie below the folder that was dropped', async () => {
    const tree: Tree = { evening: { 'p 10.jpg': null, 'p 9.jpg': null, later: { 'q.jpg': null, last: { 'r.jpg': null } } }, 'a.jpg': null };
    expect(shown(await droppedFiles(drop(tree)))).toEqual(['0 a.jpg', '2 r.jpg', '1 q.jpg', '0 p 9.jpg', '0 p 10.jpg']);
  });

  it('are all there, also when a folder holds more than a browser tells at a time', async () => {
    const many = Object.fromEntries(Array.from({ length: 257 }, (_, n) => [`${n}.jpg`, null]));
    const found = await droppedFiles(drop({ many }));
    expect(shown(found)).toEqual(Array.from({ length: 257 }, (_, n) => `0 ${n}.jpg`));
  });

  it('are without those that systems put there, and without hidden folders', async () => {
    const tree: Tree = { boats: { 'Thumbs.db': null, '.DS_Store': null, 'desktop.ini': null, '.cache': { 'x.jpg': null }, 'y.jpg': null } };
    expect(shown(await droppedFiles(drop(tree)))).toEqual(['0 y.jpg']);
  });

  it('that cannot be read end in that error', async () => {
    const broken = {
      name: 'x.jpg',
      isFile: true,
      isDirectory: false,
      file: (_: FileCallback, fail: ErrorCallback) => fail(new DOMException()),
    };
    await expect(droppedFiles([{ webkitGetAsEntry: () => broken }] as never)).rejects.toThrow();
  });
});

describe('a folder that is chosen', () => {
  it('gives its files as if it had been dropped', () => {
    const file = (path: string) => Object.defineProperty(new File(['x'], path.split('/').at(-1)!), 'webkitRelativePath', { value: path });
    const files = ['e/p 10.jpg', 'e/p 9.jpg', 'e/later/q.jpg', 'e/.DS_Store', 'e/.cache/z.jpg', 'e/later/last/r.jpg'].map(file);
    expect(shown(pickedFiles(files)).sort()).toEqual(['0 p 10.jpg', '0 p 9.jpg', '1 q.jpg', '2 r.jpg']);
    const single = (name: string) => Object.defineProperty(new File(['x'], name), 'webkitRelativePath', { value: '' });
    expect(shown(pickedFiles(['10.jpg', '9.jpg', 'Thumbs.db'].map(single)))).toEqual(['0 9.jpg', '0 10.jpg']);
  });
});
