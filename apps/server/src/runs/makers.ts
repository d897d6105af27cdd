import {
  carriedPreset,
  decisionsKey,
  ENGINE,
  makingOf,
  type OnceByPreset,
  type OutputOf,
  partPreset,
  type Preset,
  type Problem,
  recipeTexts,
  type StoredPreset,
  type StudioDetails,
} from '@rundle/core';
import { decisionsOf, hashOfRecipe, type MadeOf, type MasterRecord, type WatermarkRow } from '@rundle/store';
import { madeOf, type Wanted } from './standing';

/** The watermarks of presets by the id of the preset; a problem: it names one that cannot be used; null: it names none. */
export type MarkByPreset = ReadonlyMap<string, WatermarkRow | Problem | null>;

/** What outputs are made of; what many masters share is worked out once. */
export class Makers {
  private readonly versions: ReadonlyMap<string, { preset: Preset; version: number }>;
  private readonly texts = new Map<string, (master: string, engine: number) => string>();
  private readonly shared = new Map<string, MadeOf>();

  constructor(
    presets: readonly StoredPreset[],
    private readonly details: StudioDetails,
    private readonly marks: MarkByPreset,
    private readonly once: OnceByPreset,
  ) {
    this.versions = new Map(presets.map(({ id, preset, version }) => [id, { preset, version }]));
  }

  wanted(master: MasterRecord, { presetId, part }: Pick<OutputOf, 'presetId' | 'part'>): Wanted {
    const { preset: whole, version } = this.versions.get(presetId)!;
    const preset = partPreset(whole, part);
    const mark = this.marks.get(presetId);
    // Watermarks are never changed, only replaced by others, so that the id stands for the content.
    const watermark = mark && 'kind' in mark ? mark.id : null;
    const sha256 = master.sha256 ?? '';
    let shared = this.shared.get(presetId);
    if (!shared) this.shared.set(presetId, (shared = madeOf('', this.details, watermark, this.once[presetId])));
    return {
      masterId: master.id,
      presetId,
      part,
      version,
      madeOf: { ...shared, master: sha256.slice(0, 16) },
      recipe: (engine = ENGINE) => {
        const text = this.textOf(preset, presetId, part, master, watermark);
        return hashOfRecipe(text(sha256, engine));
      },
    };
  }

  private textOf(preset: Preset, presetId: string, part: string, master: MasterRecord, watermark: string | null) {
    const decisions = decisionsOf(master);
    // Where it is cut depends on the picture.
    if (master.facts && (preset.size.ratio || decisions.crop)) {
      const { preset: cut } = makingOf(master.facts, preset, presetId, decisions);
      return recipeTexts({ preset: cut, studio: this.details, watermark });
    }
    const key = `${presetId} ${part} ${decisionsKey(decisions, preset, presetId)}`;
    let text = this.texts.get(key);
    if (!text) {
      const carried = carriedPreset(preset, presetId, decisions);
      this.texts.set(key, (text = recipeTexts({ preset: carried, studio: this.details, watermark })));
    }
    return text;
  }
}
