import {
  activeTone,
  type Allocate,
  type ColourRung,
  FILE_TYPES,
  type Finding,
  finding,
  type LinearLight,
  longEdgeSize,
  type Making,
  type MasterFacts,
  type PixelSize,
  POINTS_EDGE,
  type Preset,
  type Raster,
  type Rectangle,
  SPACES,
  type Tone,
  type Tones,
  tonesOf,
  unsharpMask,
  type View,
  widened,
} from '@rundle/core';
import { convertColour } from './colour/convert';
import { linearLight, type Source, sourceColour } from './colour/source';
import { decode, decodeAlpha, decodeAtHeight, decodeRows, decodeStored, embeddedProfile } from './read/decode';
import { Arena } from './scratch';
import { OPENERS } from './types/registry';
import { type Decoding, LARGE, MOST_STORED, Sizes } from './size/sized';

/** Where the sizes of the master at hand lie, for a thread that has one master at a time. */
const arena = new Arena();

/** Room for the sizes of one master; it ends with the next call. */
export function roomForOne(): Allocate {
  arena.clear();
  return (words) => arena.words(words);
}

/** A master at a size, in its own colours; the pixels are shared. */
export interface SizedMaster {
  picture: Raster<Uint16Array>;
  /** Its transparency as large, where the output can hold one. */
  alpha: Raster<Uint16Array> | null;
  source: Source;
  /** Its tones, whatever its size: for points that are found in each picture. */
  tones: () => Promise<Tones>;
}

/** One master on its way into many outputs: decoded once for all of them, as long as they want the same of its numbers. */
export class MasterSource {
  private readonly pictures = new Map<string, Promise<Sizes>>();
  private readonly tones = new Map<string, Promise<Tones>>();
  private readonly sources = new Map<string, Promise<Source>>();
  private transparency: Sizes | undefined;
  private profile: Promise<Uint8Array | null> | undefined;

  /**
   * @param path at which it can be read now; another one may lead to it later
   * @param mayMutate whether only one picture is ever made of it, which then may be worked on in place
   * @param allocate makes room for its sizes, for as long as it is in use
   */
  constructor(
    public path: string,
    private readonly facts: MasterFacts,
    readonly mayMutate: boolean,
    private readonly allocate: Allocate,
  ) {}

  /** @param view the part of it that is used; null: all @param part of it, what of the size is wanted; null: all @throws ProblemError when the master cannot be decoded to its end */
  async sized(size: PixelSize, preset: Preset, view: View | null, part: Rectangle | null = null): Promise<SizedMaster> {
    const { kernel, light } = preset.size;
    const { backdrop, untagged } = preset.colour;
    const channels = { cmyk: 4, grey: 1, rgb: 3, lab: 3 } as const;
    const source = await remember(this.sources, untagged, async () => {
      this.profile ??= embeddedProfile(this.path, this.facts);
      // Lab has been made sRGB by the decoder; its profile, if any, is not that of the pixels any more.
      const lab = this.facts.colourModel === 'lab';
      return sourceColour(channels[this.facts.colourModel], lab ? null : await this.profile, this.facts, lab ? 'srgb' : untagged);
    });
    const known = linearLight(source.colour);
    // The picture over one backdrop is another picture than over another; opaque masters are the same over all.
    const asked = activeTone(preset.tone)?.before;
    const before = asked && asked.amount > 0 ? asked : null;
    const key = `${untagged} ${this.facts.alpha ? backdrop : ''}${before ? JSON.stringify(before) : ''}`;
    const sizes = await remember(this.pictures, key, () => Promise.resolve(this.sizesOf(backdrop, known, before)));
    const linear = light === 'linear' && known !== null;
    const findings: Finding[] = light === 'linear' && !known ? [...source.findings, NO_LINEAR_LIGHT] : source.findings;
    return {
      picture: await sizes.at(size, kernel, linear, view, part),
      alpha: await this.alpha(size, preset, view, part),
      source: { ...source, findings },
      tones: () => this.tonesOf(key, sizes, source, preset.colour, view),
    };
  }

  /** Lets go of sizes until the rest takes no more than so many bytes. @returns what the rest takes */
  async keep(most: number): Promise<number> {
    let left = 0;
    for (const sizes of [...this.pictures.values(), ...(this.transparency ? [this.transparency] : [])])
      left += await (await sizes).keep(Math.max(0, most - left));
    return left;
  }

  private sizesOf(backdrop: string, light: LinearLight | null, before: Tone['before']): Sizes {
    const decoding = this.decoding(backdrop);
    if (!before) return new Sizes(this.facts, decoding, light, this.allocate);
    const sharpened = async () => {
      const master = await decoding.whole();
      const wide = { ...master, pixels: master.pixels instanceof Uint16Array ? master.pixels : widened(master).pixels };
      unsharpMask(wide, before);
      return wide;
    };
    // What has been sharpened lies between the steps of 8 bits.
    return new Sizes(
      { ...this.facts, bits: 16 },
      { whole: sharpened, stored: null, atHeight: null, rows: null, openRows: null },
      light,
      this.allocate,
    );
  }

  /** The tones of what is used of the master, on a reduction of one kind, so that all its sizes and windows get the same points. */
  private tonesOf(key: string, sizes: Sizes, { colour }: Source, rung: ColourRung, view: View | null): Promise<Tones> {
    const { space, intent, blackPoint } = rung;
    const own = JSON.stringify([key, view, colour.kind === 'table' || colour.kind === 'inks' ? [space, intent, blackPoint] : null]);
    return remember(this.tones, own, async () => {
      const small = await sizes.at(longEdgeSize(POINTS_EDGE, view ?? this.facts), 'lanczos3', false, view);
      if (colour.kind === 'matrix') return tonesOf(small, (colour.name ? SPACES[colour.name] : colour.space).curves);
      if (colour.kind === 'grey') return tonesOf(small, [colour.curve]);
      const { raster, name } = await convertColour(small, colour, rung);
      return tonesOf(raster, SPACES[name ?? 'srgb'].curves);
    });
  }

  private async alpha(
    size: PixelSize,
    { file, colour, size: { kernel } }: Preset,
    view: View | null,
    part: Rectangle | null,
  ): Promise<SizedMaster['alpha']> {
    // Inks that are kept have no transparency in any type: they lie over the backdrop.
    const keepsInks = colour.space === 'keep' && this.facts.colourModel === 'cmyk';
    if (!this.facts.alpha || keepsInks || !FILE_TYPES[file.type].transparency) return null;
    this.transparency ??= new Sizes(
      this.facts,
      { whole: () => decodeAlpha(this.path, this.facts), stored: null, atHeight: null, rows: null, openRows: null },
      null,
    );
    return this.transparency.at(size, kernel, false, view, part);
  }

  private decoding(backdrop: string): Decoding {
    const { facts } = this;
    const { format, orientation, bits, colourModel, alpha, width, height } = facts;
    const strips = OPENERS[format].inRows && orientation === 1 && !alpha && width * height >= LARGE;
    const fast = bits === 8 && colourModel === 'rgb' && !alpha && width * height >= LARGE;
    return {
      whole: () => decode(this.path, facts, backdrop, this.allocate),
      stored: fast && width * height <= MOST_STORED ? () => decodeStored(this.path, facts, this.allocate) : null,
      rows: strips && !fast ? (top, rows) => decodeRows(this.path, facts, top, rows) : null,
      openRows: strips && !fast ? () => OPENERS[format].openRows?.(this.path, facts) ?? null : null,
      atHeight: fast ? (to, kernel) => decodeAtHeight(this.path, facts, to, kernel) : null,
    };
  }
}

function remember<T>(known: Map<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  const value = known.get(key) ?? make();
  known.set(key, value);
  return value;
}

/** Outputs with the largest first, so that smaller ones can be scaled from it. */
export function largestFirst<T extends { making: Making }>(outputs: readonly T[]): T[] {
  const pixels = ({ making }: T) => making.geometry.scaled.width * making.geometry.scaled.height;
  return outputs.toSorted((a, b) => pixels(b) - pixels(a));
}

const NO_LINEAR_LIGHT = finding(
  'light-encoded',
  'The master’s profile does not tell what light its numbers are, so they were averaged as they are.',
);
