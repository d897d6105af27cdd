import { iccProfileOf, nameOfSpace, parseIccProfile } from '@rundle/core';

/** The profile of one of our spaces for one that means the same, whatever name the program gave it that wrote it; itself for any other. */
export function plainlyNamed(profile: Uint8Array): Uint8Array {
  const { matrix } = parseIccProfile(profile);
  const name = matrix && nameOfSpace(matrix);
  return name ? iccProfileOf(name) : profile;
}
