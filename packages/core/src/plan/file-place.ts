/** Where a file stands. */
export interface FilePlace {
  /** A whole path on the machine, or a name in Rundle's own tree. */
  target: string;
  /** Below the target, `/` between levels. */
  folder: string;
  fileName: string;
}

export const samePlace = (one: FilePlace, other: FilePlace): boolean =>
  one.target === other.target && one.folder === other.folder && one.fileName === other.fileName;

/** A path below the target, `/` between levels. */
export const joinPath = (folder: string, fileName: string): string => (folder ? `${folder}/${fileName}` : fileName);

/** The same for places that are one on many disks: where names differ only in case or Unicode form. */
export const placeKey = ({ target, folder, fileName }: FilePlace): string =>
  `${target}\n${joinPath(folder, fileName).normalize('NFC').toLowerCase()}`;
