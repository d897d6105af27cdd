/** The formats that masters are read in, with the extensions that they go by. */
const EXTENSIONS = {
  jpeg: ['jpg', 'jpeg', 'jpe', 'jfif'],
  tiff: ['tif', 'tiff'],
  png: ['png'],
  webp: ['webp'],
  avif: ['avif', 'avifs'],
} as const satisfies Record<string, readonly string[]>;

export type MasterFormat = keyof typeof EXTENSIONS;

export const MASTER_FORMATS = Object.keys(EXTENSIONS) as [MasterFormat, ...MasterFormat[]];

/** Extensions that a format goes by, in lower case and without the dot. */
export const extensionsOf = (format: MasterFormat): readonly string[] => EXTENSIONS[format];
