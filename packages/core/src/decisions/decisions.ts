import * as z from 'zod';
import type { MasterFacts } from '../facts/facts';
import type { Preset } from '../preset/schema';
import { Crop, Placement, ratioName, RatioName } from '../size/crop';
import { Focus } from '../size/geometry';
import type { DecidedSize } from '../size/used-part';
import { addedTone, isNeutralForPicture, PictureTone } from '../tone/schema';

/*
 * What a photographer has decided about pictures, beside what the presets say: each decision stands for itself, has its scope, and is carried
 * out here and nowhere else.
 */

const MOST_PAGES = 2000;

/** Everything that was decided about one picture, as it is kept with it. What was not decided has its neutral value. */
export const Overrides = z.strictObject({
  assumeSrgb: z.boolean().default(false).meta({ description: 'Its colours are sRGB, though no profile says so' }),
  fillRights: z.boolean().default(false).meta({ description: 'Missing rights are filled from the studio, whatever the preset' }),
  dropPlace: z.boolean().default(false).meta({ description: 'Nothing of where it was made goes out, whatever the preset' }),
  focus: Focus.nullable().default(null).meta({ description: 'What stays in sight where a preset cuts to fill, or to a ratio' }),
  crop: Crop.nullable().default(null).meta({ description: 'What is used of it, and how it is turned, whatever the preset' }),
  ratios: z
    .record(RatioName, Placement)
    .default({})
    .meta({ description: 'Where it is cut by presets that ask for a ratio, by the ratio’s name, such as 2:3' }),
  tone: PictureTone.nullable().default(null).meta({ description: 'What is added to the tone of every preset for this picture' }),
  page: z
    .int()
    .min(1)
    .max(MOST_PAGES)
    .nullable()
    .default(null)
    .meta({ description: 'Which of its pages is the picture, from 1, thumbnails left aside; null: the first' }),
  without: z.array(z.uuid()).max(10_000).default([]).meta({ description: 'Presets that make nothing of it' }),
});
export type Decisions = z.infer<typeof Overrides>;
export type DecisionName = keyof Decisions;

export const NO_DECISIONS: Decisions = Overrides.parse({});

/** Decisions in a question about a picture: they are on a screen before they are kept. */
export const DecidedOnItsWay = Overrides.optional().meta({
  description: 'What is decided about the picture, where that is still on its way; without it: what is kept',
});

/** A preset as it is carried out for one picture. */
export type CarriedPreset = Omit<Preset, 'size'> & { size: DecidedSize };

interface Decision<Value> {
  /** What it is about: the picture, whatever is made of it; or the picture and one preset, so that it is a list of presets. */
  scope: 'picture' | 'picture and preset';
  /** Whether it makes another file of a preset that is given: by this, and nothing else, files become out of date. */
  counts: (value: Value, preset: Preset, presetId: string | null) => boolean;
  /** The preset with it, where it counts. */
  carry: (value: Value, preset: CarriedPreset) => CarriedPreset;
}

const asItIs = <Value>(_: Value, preset: CarriedPreset): CarriedPreset => preset;
/** A page that was chosen and is not the first one, which needs no choosing. */
export const chosenPage = (page: number | null): number | null => (page === 1 ? null : page);
/** What tells one picture from another in addresses and caches. @param content of its file, without hyphens @param page of it, where that is not the first */
export const contentOfPage = (content: string, page: number | null): string => (page === null ? content : `${content}-${page}`);
/** Whether a picture has been read as the page that is decided; else what is known of it is of another. */
export const isOfDecidedPage = (content: string, { page }: Pick<Decisions, 'page'>): boolean =>
  content === contentOfPage(content.split('-')[0]!, chosenPage(page));
/** An untouched copy has nothing that could be decided otherwise. */
const isMade = ({ file }: Preset): boolean => file.type !== 'original';

/** All of them, in the order in which they are carried out. */
export const DECISIONS: { readonly [Name in DecisionName]: Decision<Decisions[Name]> } = {
  assumeSrgb: {
    scope: 'picture',
    counts: (value, preset) => value && isMade(preset),
    carry: (_, preset) => ({ ...preset, colour: { ...preset.colour, untagged: 'srgb' } }),
  },
  fillRights: {
    scope: 'picture',
    counts: (value, preset) => value && isMade(preset),
    carry: (_, preset) => ({ ...preset, metadata: { ...preset.metadata, rights: 'keep', fill: true } }),
  },
  dropPlace: {
    scope: 'picture',
    counts: (value, preset) => value && isMade(preset),
    carry: (_, preset) => ({ ...preset, metadata: { ...preset.metadata, place: 'remove' } }),
  },
  focus: {
    scope: 'picture',
    // Only where it is cut, so that moving it makes nothing else out of date.
    counts: (value, preset) => value !== null && isMade(preset) && (preset.size.fit === 'cover' || preset.size.ratio !== null),
    carry: (value, preset) => (value ? { ...preset, size: { ...preset.size, focus: value } } : preset),
  },
  crop: {
    scope: 'picture',
    counts: (value, preset) => value !== null && isMade(preset),
    carry: (value, preset) => (value ? { ...preset, size: { ...preset.size, crop: value } } : preset),
  },
  ratios: {
    scope: 'picture',
    counts: (value, preset) => isMade(preset) && Object.keys(ratiosFor(value, preset)).length > 0,
    carry: (value, preset) => ({ ...preset, size: { ...preset.size, ratios: ratiosFor(value, preset) } }),
  },
  tone: {
    scope: 'picture',
    counts: (value, preset) => value !== null && isMade(preset) && !isNeutralForPicture(value),
    carry: (value, preset) => (value ? { ...preset, tone: addedTone(preset.tone, value) } : preset),
  },
  page: {
    scope: 'picture',
    counts: (value, preset) => chosenPage(value) !== null && isMade(preset),
    carry: (value, preset) => ({ ...preset, size: { ...preset.size, page: chosenPage(value) ?? 1 } }),
  },
  without: {
    scope: 'picture and preset',
    counts: (value, _, presetId) => presetId !== null && value.includes(presetId),
    carry: asItIs,
  },
};

/** Those for the ratio of a preset, in either orientation. */
function ratiosFor(ratios: Decisions['ratios'], { size: { ratio } }: Pick<Preset, 'size'>): Decisions['ratios'] {
  if (!ratio) return {};
  const names = new Set([ratioName(ratio), ratioName({ w: ratio.h, h: ratio.w })]);
  return Object.fromEntries(Object.entries(ratios).filter(([name]) => names.has(name)));
}

const NAMES = Object.keys(DECISIONS) as DecisionName[];

/**
 * Those decisions about a picture that count for a preset, in one order: what it makes of the picture is out of date when these have changed.
 * @param presetId of that preset; null: it is none that is kept
 */
export const countingDecisions = (decisions: Decisions, preset: Preset, presetId: string | null): DecisionName[] =>
  decisions === NO_DECISIONS
    ? []
    : NAMES.filter((name) => (DECISIONS[name] as Decision<unknown>).counts(decisions[name], preset, presetId));

/** The same with their values, as text: a part of what tells one file from another before it has been worked out. */
export const decisionsKey = (decisions: Decisions, preset: Preset, presetId: string | null): string =>
  JSON.stringify(
    countingDecisions(decisions, preset, presetId).map((name) => [name, DECISIONS[name].scope === 'picture' ? decisions[name] : true]),
  );

/** A preset as it is carried out for one picture; the preset itself where nothing that was decided counts. */
export const carriedPreset = (preset: Preset, presetId: string | null, decisions: Decisions): CarriedPreset =>
  countingDecisions(decisions, preset, presetId).reduce<CarriedPreset>(
    (carried, name) => (DECISIONS[name] as Decision<unknown>).carry(decisions[name], carried),
    preset,
  );

/** Whether it was decided that a preset makes nothing of a picture. */
export const isLeftOut = ({ without }: Decisions, presetId: string): boolean => without.includes(presetId);

/** The facts of a picture with what was decided: what EXIF claims about colours does not count against the photographer's word. */
export const carriedFacts = <Facts extends Pick<MasterFacts, 'profile' | 'exifSpace'>>(facts: Facts, { assumeSrgb }: Decisions): Facts =>
  assumeSrgb && facts.profile === null ? { ...facts, exifSpace: null } : facts;
