import { existsSync } from 'node:fs';
import { chmod, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { FolderMasters } from './folder-masters';
import { FolderOutputs } from './folder-outputs';
import type { Masters } from './masters';
import type { Outputs } from './outputs';

/** Below the data folder, the folder of all outputs. */
export const outputsFolder = (data: string): string => join(data, 'outputs');

/** The files of a data folder. */
export interface Files {
  masters: Masters;
  outputs: Outputs;
}

/**
 * Makes the folder of outputs. Others are let in by the umask; but the data folder of root lets everybody pass, since the database has another user:
 * there it is its owner's alone, once, until somebody opens it to others.
 */
async function openToOwner(folder: string, wasOpened: boolean): Promise<void> {
  const isRoots = process.getuid?.() === 0;
  await mkdir(folder, { recursive: true, ...(isRoots ? { mode: 0o700 } : {}) });
  if (isRoots && !wasOpened) await chmod(folder, 0o700);
}

/**
 * Opens the files of a data folder; its folders are made where they are missing.
 * @param writeRoots folders of the machine below which outputs may go
 */
export async function openFiles(data: string, writeRoots: readonly string[] = []): Promise<Files> {
  const masters = new FolderMasters(data);
  await masters.prepare();
  await openToOwner(outputsFolder(data), existsSync(join(data, 'studio.json')));
  return { masters, outputs: new FolderOutputs(outputsFolder(data), writeRoots) };
}
