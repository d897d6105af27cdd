import type { EncodedFileByType, EncodedTypeName, MasterFormat, SettingsOf } from '@rundle/core';
import { avifOpener, avifWriter } from './avif/avif';
import { heicOpener } from './heic/heic';
import { jpegOpener, jpegWriter } from './jpeg/jpeg';
import { jxlOpener, jxlWriter } from './jxl/jxl';
import { pngOpener, pngWriter } from './png/png';
import { psdOpener } from './psd/psd';
import { rawOpener } from './raw/raw';
import { tiffOpener, tiffWriter } from './tiff/tiff';
import type { Opener, Writer } from './type';
import { webpOpener, webpWriter } from './webp/webp';

/** What opens each type that masters can have. */
export const OPENERS: Readonly<Record<MasterFormat, Opener>> = {
  jpeg: jpegOpener,
  tiff: tiffOpener,
  png: pngOpener,
  webp: webpOpener,
  avif: avifOpener,
  heic: heicOpener,
  jxl: jxlOpener,
  psd: psdOpener,
  raw: rawOpener,
};

/** What writes each type that outputs can have. */
const WRITERS: { readonly [Type in EncodedTypeName]: Writer<SettingsOf<Type>> } = {
  jpeg: jpegWriter,
  webp: webpWriter,
  avif: avifWriter,
  jxl: jxlWriter,
  png: pngWriter,
  tiff: tiffWriter,
};

/** @param type of the settings that it is given */
export const writerOf = (type: EncodedTypeName): Writer<EncodedFileByType> => WRITERS[type] as unknown as Writer<EncodedFileByType>;
