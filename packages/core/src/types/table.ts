import type { Problem } from '../problem';
import { avif } from './avif';
import { heic } from './heic';
import { jpeg } from './jpeg';
import { jxl } from './jxl';
import { original } from './original';
import { png } from './png';
import { psd } from './psd';
import { tiff } from './tiff';
import { raw } from './raw';
import type { FileFields, Programs, ReadableType, WeightScale, WritableType } from './type';
import { webp } from './webp';

/** The types that masters can have, in the order in which lists show them. */
const READABLE = { jpeg, tiff, png, webp, avif, heic, jxl, psd, raw } as const;
/** The types that outputs can have. */
const WRITABLE = { jpeg, webp, avif, jxl, png, tiff, original } as const;

export type MasterFormat = keyof typeof READABLE;
export type FileTypeName = keyof typeof WRITABLE;
/** The types that are encoded; the other hands over the master’s own bytes. */
export type EncodedTypeName = Exclude<FileTypeName, 'original'>;
/** Any type that is known, whether it comes in or goes out. */
export type AnyTypeName = MasterFormat | FileTypeName;

/** The File rung as it counts for its type: what makes files sees only what there is. */
export type FileByType = ReturnType<(typeof WRITABLE)[FileTypeName]['settings']>;
/** What an encoder makes. */
export type EncodedFileByType = Exclude<FileByType, { type: 'original' }>;
/** The settings of one type. */
export type SettingsOf<Type extends EncodedTypeName> = Extract<EncodedFileByType, { type: Type }>;

const namesOf = <Name extends string>(table: Record<Name, unknown>) => Object.keys(table) as [Name, ...Name[]];

export const MASTER_FORMATS: readonly [MasterFormat, ...MasterFormat[]] = namesOf(READABLE);
export const FILE_TYPE_NAMES: readonly [FileTypeName, ...FileTypeName[]] = namesOf(WRITABLE);
export const ENCODED_TYPE_NAMES = FILE_TYPE_NAMES.filter((name) => name !== 'original') as [EncodedTypeName, ...EncodedTypeName[]];

export const MASTER_TYPES: Readonly<Record<MasterFormat, ReadableType>> = READABLE;
/** One whose settings are its own: what its weight is expected by is what {@link fileByType} gave. */
type SomeType = Omit<WritableType, 'expectedBits'> & { expectedBits: (settings: never, scale: WeightScale) => number };
export const FILE_TYPES: Readonly<Record<FileTypeName, SomeType>> = WRITABLE;

/** Those that have a quality. */
export const LOSSY_TYPE_NAMES = FILE_TYPE_NAMES.filter((name) => FILE_TYPES[name].lossy) as [FileTypeName, ...FileTypeName[]];

/** What each type is called, for lists to choose from. */
export const FILE_TYPE_LABELS = Object.fromEntries(FILE_TYPE_NAMES.map((name) => [name, FILE_TYPES[name].label])) as Record<
  FileTypeName,
  string
>;

/** What any type is called. */
export const typeLabel = (type: AnyTypeName): string => ({ ...READABLE, ...WRITABLE })[type].label;

export const fileByType = ({ type, ...rung }: FileFields & { type: FileTypeName }): FileByType => WRITABLE[type].settings(rung);

/** Extensions that a format goes by, in lower case and without the dot. */
export const extensionsOf = (format: MasterFormat): readonly string[] => MASTER_TYPES[format].extensions;

/**
 * What kind of picture a file is by its first bytes, whatever it is called; null when it is none that can be read.
 * @param first the first {@link SNIFF_BYTES} bytes, or fewer when the file is shorter
 */
export const sniffFormat = (first: Uint8Array): MasterFormat | null =>
  MASTER_FORMATS.find((name) => MASTER_TYPES[name].begins(first)) ?? null;

/** The same of a file that may have been made here. */
export const sniffWritten = (first: Uint8Array): EncodedTypeName | null =>
  ENCODED_TYPE_NAMES.find((name) => FILE_TYPES[name].begins(first)) ?? null;

/** The type that a file of ours has by its extension, in capital letters or not; null: none that is encoded. */
export function typeOfName(fileName: string): EncodedTypeName | null {
  const extension = /\.([^.]+)$/.exec(fileName)?.[1]?.toLowerCase() ?? '';
  return ENCODED_TYPE_NAMES.find((name) => FILE_TYPES[name].extensions.includes(extension)) ?? null;
}

/** "JPEG, TIFF, PNG, WebP, AVIF, HEIC, JPEG XL, PSD or Raw" */
const readableInWords = (): string =>
  MASTER_FORMATS.map((name) => MASTER_TYPES[name].label)
    .join(', ')
    .replace(/, ([^,]*)$/, ' or $1');

/** Said of every file that is no picture of ours. */
export const NO_PICTURE = `This is no picture that can be read here: ${readableInWords()}.`;

/** One that is written by programs which not every machine has. */
export const needsPrograms = (type: FileTypeName): boolean => FILE_TYPES[type].needs !== null;

const missing = ({ programs, package: name }: Programs) => ({
  are: `${programs.join(' and ')} ${programs.length === 1 ? 'is' : 'are'} missing`,
  get: `Install the Debian package ${name}`,
});

/** Why a type cannot be written where its programs are missing. */
export function notWritable(type: FileTypeName): Problem {
  const { label, needs } = FILE_TYPES[type];
  const { are, get } = missing(needs!);
  const message = `${label} cannot be written here, because ${are}. ${get} and start again, or choose another file type.`;
  return { code: 'type-not-writable', field: 'file.type', message };
}

/** Why a master cannot be read where the programs of its type are missing. */
export function notReadable(format: MasterFormat, file: string): Problem {
  const { label, readBy } = MASTER_TYPES[format];
  const { are, get } = missing(readBy!);
  return {
    code: 'unreadable',
    file,
    message: `${label} cannot be read here, because ${are}. ${get} and start again, or export it as JPEG or TIFF.`,
  };
}
