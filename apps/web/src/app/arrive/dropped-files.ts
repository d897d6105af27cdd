import { isSystemFile, naturally } from '@rundle/core';

/** A file on its way in, and how many folders deep it lay. */
export interface FoundFile {
  file: File;
  /** 0: in the folder that was chosen, or dropped by itself. */
  depth: number;
}

/**
 * All files of a drop in natural order, with those in dropped folders; the File and Directory Entries API (WICG) tells of
 * folders.
 */
export async function droppedFiles(items: DataTransferItemList): Promise<FoundFile[]> {
  // Entries have to be asked for at once: after the first wait the list is empty.
  const entries = [...items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  const found: FoundFile[] = [];
  for (const entry of entries.sort(byName)) await collect(entry, entry.isDirectory ? -1 : 0, found);
  return found;
}

/** The same of a field for a folder: its files carry their way from that folder on. */
export function pickedFiles(files: Iterable<File>): FoundFile[] {
  return [...files]
    .map((file) => ({ file, way: (file.webkitRelativePath || file.name).split('/') }))
    .filter(({ way }) => !way.slice(way.length > 1 ? 1 : 0).some(isSystemFile))
    .sort((a, b) => naturally(a.way.join('/'), b.way.join('/')))
    .map(({ file, way }) => ({ file, depth: Math.max(0, way.length - 2) }));
}

async function collect(entry: FileSystemEntry, depth: number, found: FoundFile[]): Promise<void> {
  if (isSystemFile(entry.name)) return;
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
    found.push({ file, depth });
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const children: FileSystemEntry[] = [];
  for (;;) {
    // A reader gives a hundred entries at a time, and none at the end.
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (part.length === 0) break;
    children.push(...part);
  }
  for (const child of children.sort(byName)) await collect(child, depth + 1, found);
}

const byName = (a: FileSystemEntry, b: FileSystemEntry): number => naturally(a.name, b.name);
