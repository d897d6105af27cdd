import type { MasterFacts } from '../../facts/facts';
import { fillRights, type StudioDetails } from '../../metadata/studio';
import type { Preset } from '../../preset/schema';
import type { GalleryText } from './pictures';

/**
 * What a gallery may tell of a picture: what all of its files carry, so that the page says no more than they do.
 * @param presets those that made its files
 * @param studio what filled in missing rights then
 */
export function galleryText(facts: MasterFacts, presets: readonly Pick<Preset, 'metadata' | 'file'>[], studio: StudioDetails): GalleryText {
  const keep = (group: 'description' | 'rights') =>
    presets.every(({ metadata, file }) => file.type === 'original' || metadata[group] === 'keep');
  const isFilled = presets.every(({ metadata, file }) => file.type !== 'original' && metadata.fill);
  const rights = isFilled ? fillRights(facts, studio) : facts.rights;
  const isDescribed = keep('description');
  return {
    title: isDescribed ? facts.title : null,
    caption: isDescribed ? facts.caption : null,
    alt: isDescribed ? facts.alt : null,
    credit: keep('rights') ? (rights.credit ?? rights.copyright ?? rights.creator) : null,
  };
}
