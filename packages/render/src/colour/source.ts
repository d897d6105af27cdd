import {
  type ColourRung,
  type Curve,
  type Finding,
  finding,
  type IccProfile,
  type LinearLight,
  type MasterFacts,
  nameOfSpace,
  parseIccProfile,
  type RgbSpace,
  SPACES,
  type SpaceName,
} from '@rundle/core';

/** What the numbers of a master mean. */
export type SourceColour =
  /** RGB of primaries and curves. `profile`: the embedded bytes; `name`: which of our own spaces it is, if one of them. */
  | { kind: 'matrix'; space: RgbSpace; name: SpaceName | null; profile: Uint8Array | null }
  | { kind: 'grey'; curve: Curve; profile: Uint8Array | null }
  /** Known only by tables: print colour, and RGB or grey profiles of that kind. */
  | { kind: 'table'; profile: Uint8Array }
  /** Print colour without a profile. */
  | { kind: 'inks' };

export interface Source {
  colour: SourceColour;
  findings: Finding[];
}

const CHANNELS: Record<string, 1 | 3 | 4> = { GRAY: 1, RGB: 3, CMYK: 4 };

/**
 * Decides what a master's numbers mean: its embedded profile; else what EXIF says; else the preset's assumption.
 * @param channels of the decoded pixels
 * @param profile the embedded profile, or null
 * @param untagged the preset's assumption
 */
export function sourceColour(
  channels: 1 | 3 | 4,
  profile: Uint8Array | null,
  facts: Pick<MasterFacts, 'exifSpace'>,
  untagged: ColourRung['untagged'],
): Source {
  const parsed = profile && parseSafely(profile);
  const belongs = parsed && CHANNELS[parsed.space] === channels;
  const findings = profile && !belongs ? [DAMAGED] : [];
  if (profile && belongs) return { colour: ofProfile(parsed, profile), findings };
  if (channels === 4) return { colour: { kind: 'inks' }, findings: [...findings, NO_PRINT_PROFILE] };
  const name = facts.exifSpace ?? untagged;
  const space = SPACES[name];
  return {
    colour: channels === 1 ? { kind: 'grey', curve: space.curves[0], profile: null } : { kind: 'matrix', space, name, profile: null },
    findings,
  };
}

function ofProfile({ matrix, grey }: IccProfile, profile: Uint8Array): SourceColour {
  if (grey) return { kind: 'grey', curve: grey, profile };
  if (!matrix) return { kind: 'table', profile };
  return { kind: 'matrix', space: matrix, name: nameOfSpace(matrix), profile };
}

/** Light to average in; null where only tables could say what light it is. */
export function linearLight(colour: SourceColour): LinearLight | null {
  if (colour.kind === 'matrix') return { toLinear: colour.space.curves };
  return colour.kind === 'grey' ? { toLinear: [colour.curve] } : null;
}

function parseSafely(profile: Uint8Array): IccProfile | null {
  try {
    return parseIccProfile(profile);
  } catch {
    return null;
  }
}

const DAMAGED = finding(
  'profile-damaged',
  'The embedded colour profile is damaged or belongs to other pixels; the picture was taken for one without a profile.',
);

const NO_PRINT_PROFILE = finding(
  'cmyk-without-profile',
  'Print colour without a profile: the colours are a plain guess. Export it with its profile for true colours.',
);
