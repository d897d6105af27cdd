import { extensionsOf, MASTER_FORMATS } from '../facts/formats';
import type { Problem } from '../problem';

/** Everything there is to know about a file type that an output can have; the encoder itself is in packages/render (`write/encode.ts`). */
interface FileType {
  label: string;
  /** What it is for, in one sentence. */
  use: string;
  /** Without its dot; empty: that of the master. */
  extension: string;
  /** As registered with IANA. */
  mediaType: string;
  /** Whether it has a quality that can be lowered. */
  lossy: boolean;
  /** Bits per channel that it can hold. */
  bits: readonly (8 | 16)[];
  transparency: boolean;
  /** Colour models beside RGB that it can carry with their profile. */
  keeps: readonly ('grey' | 'cmyk')[];
  /** Whether it has a place for IPTC-IIM; XMP and EXIF all of them carry. */
  iptc: boolean;
  /** Whether it can leave unsaid what its colours are. */
  untagged: boolean;
  /** The longest side in px that its format can write down. */
  longest: number;
  /** Programs that write and read it, and the Debian package that has them; null: the engine does so by itself. */
  needs: { programs: readonly string[]; package: string } | null;
}

const TYPES = {
  jpeg: {
    label: 'JPEG',
    use: 'For everything and everybody: every program opens it.',
    extension: 'jpg',
    mediaType: 'image/jpeg',
    lossy: true,
    bits: [8],
    transparency: false,
    keeps: ['grey', 'cmyk'],
    iptc: true,
    untagged: true,
    longest: 65_500,
    needs: null,
  },
  webp: {
    label: 'WebP',
    use: 'For web pages: lighter than JPEG, with transparency.',
    extension: 'webp',
    mediaType: 'image/webp',
    lossy: true,
    bits: [8],
    transparency: true,
    keeps: [],
    iptc: false,
    untagged: true,
    longest: 16_383,
    needs: null,
  },
  avif: {
    label: 'AVIF',
    use: 'For web pages of today: the lightest, and slow to make.',
    extension: 'avif',
    mediaType: 'image/avif',
    lossy: true,
    bits: [8],
    transparency: true,
    keeps: [],
    iptc: false,
    untagged: true,
    longest: 16_384,
    needs: null,
  },
  jxl: {
    label: 'JPEG XL',
    use: 'For archives and apps that read it: much lighter than JPEG and finer in gradients.',
    extension: 'jxl',
    mediaType: 'image/jxl',
    lossy: true,
    bits: [8],
    transparency: true,
    keeps: [],
    iptc: false,
    untagged: false,
    longest: 65_500,
    needs: { programs: ['cjxl', 'djxl'], package: 'libjxl-tools' },
  },
  png: {
    label: 'PNG',
    use: 'For drawings and cut-outs: without loss, and heavy for photographs.',
    extension: 'png',
    mediaType: 'image/png',
    lossy: false,
    bits: [8, 16],
    transparency: true,
    keeps: ['grey'],
    iptc: true,
    untagged: true,
    longest: 65_500,
    needs: null,
  },
  tiff: {
    label: 'TIFF',
    use: 'For print and further work: without loss, up to 16 bits.',
    extension: 'tif',
    mediaType: 'image/tiff',
    lossy: false,
    bits: [8, 16],
    transparency: true,
    keeps: ['grey', 'cmyk'],
    iptc: true,
    untagged: true,
    longest: 65_500,
    needs: null,
  },
  original: {
    label: 'Untouched copy',
    use: 'For whoever shall have the master itself: its own bytes under a new name.',
    extension: '',
    mediaType: 'application/octet-stream',
    lossy: false,
    bits: [8, 16],
    transparency: true,
    keeps: ['grey', 'cmyk'],
    iptc: true,
    untagged: true,
    longest: Infinity,
    needs: null,
  },
} as const satisfies Record<string, FileType>;

export type FileTypeName = keyof typeof TYPES;
/** The types that are encoded; the other hands over the master’s own bytes. */
export type EncodedTypeName = Exclude<FileTypeName, 'original'>;

/** The file types an output can have. Limits: ITU-T T.81 B.2.2; RFC 9649, 2.5; AV1 specification 5.9.5; the others could write down more than is ever made. */
export const FILE_TYPES: Readonly<Record<FileTypeName, FileType>> = TYPES;

/** One that is written by programs which not every machine has. */
export const needsPrograms = (type: FileTypeName): boolean => FILE_TYPES[type].needs !== null;

/** Why a type cannot be written where its programs are missing. */
export function notWritable(type: FileTypeName): Problem {
  const { label, needs } = FILE_TYPES[type];
  const missing = `${label} cannot be written here, because ${needs?.programs.join(' and ')} are missing.`;
  return {
    code: 'type-not-writable',
    field: 'file.type',
    message: `${missing} Install the Debian package ${needs?.package} and start again, or choose another file type.`,
  };
}

export const FILE_TYPE_NAMES = Object.keys(TYPES) as [FileTypeName, ...FileTypeName[]];
export const ENCODED_TYPE_NAMES = FILE_TYPE_NAMES.filter((name) => name !== 'original') as [EncodedTypeName, ...EncodedTypeName[]];

/** The type that a file's name tells by its extension, in capital letters or not; null: none that is encoded. */
export function typeOfName(fileName: string): EncodedTypeName | null {
  const extension = /\.([^.]+)$/.exec(fileName)?.[1]?.toLowerCase() ?? '';
  const format = MASTER_FORMATS.find((name) => extensionsOf(name).includes(extension));
  return format ?? ENCODED_TYPE_NAMES.find((name) => FILE_TYPES[name].extension === extension) ?? null;
}

/** Those that have a quality. */
export const LOSSY_TYPE_NAMES = FILE_TYPE_NAMES.filter((name) => TYPES[name].lossy) as [FileTypeName, ...FileTypeName[]];

/** What each type is called, for lists to choose from. */
export const FILE_TYPE_LABELS = Object.fromEntries(FILE_TYPE_NAMES.map((name) => [name, FILE_TYPES[name].label])) as Record<
  FileTypeName,
  string
>;
