import type { Meaning } from './problem-codes';

/** note: for information; look: something may go wrong. */
export type Severity = 'note' | 'look';

const look = (means: string, toDo: string) => ({ severity: 'look', means, toDo }) as const;
const note = (means: string, toDo = 'Nothing.') => ({ severity: 'note', means, toDo }) as const;

/** What is worth telling of a master, an output or a plan, though nothing has failed. Codes are never given another meaning. */
export const FINDING_CODES = {
  // Of masters
  unreadable: look('The picture cannot be read.', 'Export it again, or leave it out.'),
  interrupted: look('Reading was cut off too often by other causes.', 'Read it again.'),
  'metadata-unread': look('The metadata could not be read: nothing is filled in, and none of them go out.', 'Read it again.'),
  'no-profile': look('No colour profile is embedded: the colours are a guess.', 'Treat it as sRGB, or export it with its profile.'),
  'out-of-gamut': look('It holds colours that sRGB cannot.', 'Look at the saturated parts at 1:1.'),
  'rights-missing': look('Neither a creator nor a copyright notice is in the file.', 'Fill them in from the studio’s details.'),
  mislabelled: look('The extension says another type than the content.', 'Rename the file.'),
  'already-compressed': look('A JPEG of low quality: its faults stay visible.', 'Use the original.'),
  'already-small': look('It has few pixels for an original.', 'Use the original.'),
  'several-pages': look('One page comes out, the first unless another is chosen.', 'Choose the page beside its facts.'),
  'near-duplicate': note('It looks almost like another picture.', 'Leave one of them out.'),
  'place-present': note('The file says where it was made.', 'Remove the location, unless it should go out.'),
  cmyk: note('Print colour: it is converted to RGB, unless the preset keeps it.'),
  'not-srgb': note('Another profile than sRGB: it is converted.'),
  deep: note('More than 8 bits per channel.'),
  'embedded-picture': note('A raw file: the finished picture in it is used; the raw data are not developed.'),
  fractions: note('Its numbers are fractions: 0 is black and 1 white in its profile; what is beyond is cut off.'),
  alpha: note('Transparent parts: in JPEG they lie over the preset’s backdrop.'),
  'turned-by-tag': note('It is upright only by its orientation tag: outputs are turned for good.'),
  'very-heavy': note('A very heavy file: reading it takes a while.'),

  // Of masters with the chosen presets
  'smaller-than-asked': look(
    'The master is smaller than the preset asks, so it keeps its size.',
    'Allow enlarging, or leave this preset out.',
  ),
  'place-kept': look('The preset keeps where it was made.', 'Remove the location.'),
  'crop-proposed': note('Where it is cropped to a ratio was proposed, and nobody has looked at it.', 'Look at the proposals under Plan.'),
  'kept-whole': note('An untouched copy carries everything that is in the file.'),
  'same-name': look('Another output of the run has this name: a number is put behind it.', 'Give the name a counter or the original name.'),

  // Of outputs, held against what the receiver demands
  'house-long': look('Longer than the receiver takes.', 'Choose a smaller size.'),
  'house-short': look('Shorter than the receiver asks for.', 'Send a larger picture, or leave it out.'),
  'house-heavy': look('Heavier than the receiver takes.', 'Set a ceiling.'),
  'house-type': look('Of a type that the receiver does not take.', 'Choose another type.'),
  'house-space': look('In a colour space that the receiver does not take.', 'Choose another space.'),

  // Of outputs
  'is-master': look('A master of that name stands in the target folder: the output gets another.', 'Choose another folder.'),
  'is-stranger': look(
    'A file of that name stands there that is not Rundle’s, or not any more: it stays, and the output gets another name.',
    'Choose another folder, or move the file away.',
  ),
  'not-for': note('The preset makes nothing of this picture.'),
  unchanged: note('Made before, and nothing has changed since.'),
  left: note('A file of that name is there, and the preset leaves it.'),
  halos: look('Sharpening draws halos along edges: bright and dark lines.', 'Lower its amount or radius.'),
  clipped: look('Colours were out of gamut and moved.', 'Look at the saturated parts at 1:1.'),
  'light-encoded': note('The profile does not tell what light its numbers are, so they were averaged as they are.'),
  'tone-left-out': look('The tone was left out, because these colours are known by tables only and are kept.', 'Convert them to a space.'),
  'profile-damaged': look('The embedded profile is damaged and was left aside.', 'Export the picture with a sound profile.'),
  'cmyk-without-profile': look('Print colour without a profile: the colours are a plain guess.', 'Export it with its profile.'),
  'match-missed': look('Even the best quality is less like the picture than was asked.', 'Ask for less.'),
  shrunk: look('Even the lowest quality was too heavy, so that it was made smaller.', 'Raise the ceiling.'),
  'over-ceiling': look('It is over the ceiling, which the preset lets it be.', 'Raise the ceiling, or lower the floor.'),

  // Of plans and runs
  'earlier-version': note('What is out was made by an earlier version of its preset.', 'Run again, or leave it as it was delivered.'),
  'earlier-engine': note('Files made by an earlier version are made again.'),
  'engine-offer': note(
    'Files made by an earlier version stay, though this one would make them differently.',
    'Make them again, or leave them.',
  ),
  'worker-replaced': look('A worker did not answer for minutes and was replaced.', 'Nothing: its work is done by another.'),
} as const satisfies Record<string, Meaning & { severity: Severity }>;

export type FindingCode = keyof typeof FINDING_CODES;
