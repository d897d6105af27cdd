import {
  type EncodedTypeName,
  FILE_TYPES,
  fileByType,
  judge,
  type Judgement,
  keyOf,
  type Measured,
  type PixelSize,
  type Planes,
  planesOf,
} from '@rundle/core';
import { descriptionOf, type Descriptions } from '../metadata/description';
import { renderPixels } from '../rungs';
import type { MasterSource } from '../source';
import { writerOf } from '../types/registry';
import { Encoder, type FinishedImage } from '../write/encode';
import { asRgb } from '../write/as-rgb';
import { decodeFinished } from './picture';
import { ingredientsOf, type SampleTask } from './sample';

/** The largest picture that is kept, px: with what it is judged by, it takes some 20 bytes for each. */
const MOST_KEPT = 8e6;

/**
 * Measures whole files that differ in how they are encoded only: their pixels are made once, and kept for the next. The weight is that of the
 * file, to the byte.
 */
export class Measurer {
  private kept: { key: string; image: FinishedImage; before: () => Planes } | null = null;

  /** Whether a file can be measured without being made: one of a fixed quality, whose metadata stand apart from its pixels. */
  static can({ making }: SampleTask): boolean {
    const { file, colour } = making.preset;
    const { type } = file;
    return (
      type !== 'original' &&
      writerOf(type).metadata.apart !== null &&
      file.match === null &&
      file.ceiling === null &&
      colour.space !== 'keep'
    );
  }

  /** @throws ProblemError as a run would */
  async measure(task: SampleTask, source: MasterSource, descriptions: Descriptions): Promise<Measured> {
    const { preset } = task.making;
    const space = preset.colour.space;
    const settings = fileByType(preset.file);
    const apart = settings.type === 'original' ? null : writerOf(settings.type).metadata.apart;
    if (space === 'keep' || settings.type === 'original' || !apart) throw new Error('It has to be made to be measured.');
    const described = descriptions.bytes(descriptionOf(task, task.making, space), task.content);
    described.catch(() => {}); // told when it is needed
    const { image, before } = await this.pictureOf(task, source);
    const encoder = new Encoder(image, settings);
    const { quality } = preset.file;
    const file = await encoder.encode(quality);
    const { width, height } = file;
    const bytes = apart.put(file.data, await described).length;
    if (!task.judged) return { bytes, width, height, quality, judgement: null };
    const { picture } = await encoder.decode(file);
    return { bytes, width, height, quality, judgement: judge(before(), planesOf(asRgb(picture, 'rgb')), gridOf(settings.type)) };
  }

  /** How a file that has been made differs from the unencoded picture; null where it lost nothing, was made smaller, or is decoded to other colours. */
  async judgeFile(task: SampleTask, source: MasterSource, made: PixelSize & { path: string }): Promise<Judgement | null> {
    const { file, colour } = task.making.preset;
    const { type, bits } = file;
    if (type === 'original' || !FILE_TYPES[type].lossy || bits !== 8) return null;
    // Where another program decodes it, other colours may come back than went in.
    if (FILE_TYPES[type].needs && colour.space !== 'srgb') return null;
    const { image, before } = await this.pictureOf(task, source);
    if (made.width !== image.picture.width || made.height !== image.picture.height) return null;
    const { picture, model } = await decodeFinished(made.path, type, image.model, null);
    return judge(before(), planesOf(asRgb(picture, model)), gridOf(type));
  }

  private async pictureOf(task: SampleTask, source: MasterSource): Promise<NonNullable<Measurer['kept']>> {
    const { making, watermark } = task;
    const key = keyOf('pixels', ingredientsOf(task));
    if (this.kept?.key === key) return this.kept;
    this.kept = null;
    const image = await renderPixels({ ...making, watermark }, making.geometry, source);
    // Its file lies in memory that the next picture is made in, and its pixels within that file.
    const file = Buffer.from(image.file);
    const pixels = new Uint8Array(image.picture.pixels);
    const own = { ...image, file, picture: { ...image.picture, pixels } };
    let planes: Planes | undefined;
    const made = { key, image: own, before: () => (planes ??= planesOf(asRgb(own.picture, own.model))) };
    if (own.picture.width * own.picture.height <= MOST_KEPT) this.kept = made;
    return made;
  }
}

/** Where the blocks of a whole file begin, where its type has them on one grid. */
const gridOf = (type: EncodedTypeName): { left: number; top: number } | null => (writerOf(type).onGrid ? { left: 0, top: 0 } : null);
