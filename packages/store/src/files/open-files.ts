import { mkdir } from 'node:fs/promises';
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
 * Opens the files of a data folder; its folders are made where they are missing.
 * @param writeRoots folders of the machine below which outputs may go
 */
export async function openFiles(data: string, writeRoots: readonly string[] = []): Promise<Files> {
  const masters = new FolderMasters(data);
  await masters.prepare();
  await mkdir(outputsFolder(data), { recursive: true });
  return { masters, outputs: new FolderOutputs(outputsFolder(data), writeRoots) };
}
