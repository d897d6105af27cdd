/** What an output is made of: a picture, a preset, and which of its files where it makes several of one picture. */
export interface OutputOf {
  masterId: string;
  presetId: string;
  /** Empty where the preset makes one file of a picture. */
  part: string;
}

/** The same as text, to look an output up by. */
export const outputKey = ({ masterId, presetId, part }: OutputOf): string =>
  part === '' ? `${masterId} ${presetId}` : `${masterId} ${presetId} ${part}`;
