import { type Making, type MasterFacts, metadataPlan, type SpaceName, type StudioDetails } from '@rundle/core';
import { type Description, describingBytes } from './embed';

/** Whose file it is: what decides about its metadata, beside the preset. */
export interface DescribedMaster {
  master: string;
  facts: MasterFacts;
  studio: StudioDetails;
}

/** What an output's metadata are to say. @param space of its numbers; null: another than ours, or not known yet */
export const descriptionOf = (
  { master, facts, studio }: DescribedMaster,
  { preset: { metadata, size }, geometry }: Making,
  space: SpaceName | null,
): Description => ({
  master,
  rung: metadata,
  ppi: size.ppi,
  space,
  plan: metadataPlan(metadata, facts, studio, { whole: geometry.crop === null }),
});

/** Metadata blocks of JPEGs by what they say: several outputs of a master share them, since each takes ExifTool a while. */
export class Descriptions {
  private readonly known = new Map<string, Promise<Uint8Array>>();

  /** @param most that are remembered */
  constructor(private readonly most = Infinity) {}

  /** @param content of the master: its path may be another's the next time @throws ProblemError when the metadata cannot be written */
  bytes(description: Description, content: string): Promise<Uint8Array> {
    const key = JSON.stringify([content, { ...description, master: null }]);
    const known = this.known.get(key) ?? describingBytes(description);
    this.known.set(key, known);
    known.catch(() => this.known.delete(key)); // another try may succeed
    for (const oldest of this.known.keys()) if (this.known.size > this.most) this.known.delete(oldest);
    return known;
  }
}
