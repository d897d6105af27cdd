import { iccProfileOf, parseIccProfile, sameSpace, type SpaceName, SPACES } from '@rundle/core';

/** The profile of one of our spaces for one that means the same, whatever name the program gave it that wrote it; itself for any other. */
export function plainlyNamed(profile: Uint8Array): Uint8Array {
  const { matrix } = parseIccProfile(profile);
  const name = matrix && (Object.keys(SPACES) as SpaceName[]).find((candidate) => sameSpace(matrix, SPACES[candidate]));
  return name ? iccProfileOf(name) : profile;
}
