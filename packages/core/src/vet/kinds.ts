import type { FindingCode } from '../codes/finding-codes';

type Fixed = { kind: 'assume-srgb' | 'fill-rights' | 'drop-place' | 'leave-out' | 'read-again' };

/** How findings of one kind are told together. */
interface Kind {
  /** @param preset title of the preset that the findings are about, where they are about one */
  title: (preset: string) => string;
  consequence: string;
  remedy: Fixed | 'without' | null;
}

const kind = (title: string | Kind['title'], consequence: string, remedy: Kind['remedy'] = null): Kind => ({
  title: typeof title === 'string' ? () => title : title,
  consequence,
  remedy,
});

/** All kinds of findings, the worst first. */
export const KINDS: Partial<Record<FindingCode, Kind>> = {
  unreadable: kind('Cannot be read', 'These cannot be exported.', { kind: 'leave-out' }),
  interrupted: kind('Reading was interrupted', 'They cannot be exported until they have been read.', { kind: 'read-again' }),
  'metadata-unread': kind('Metadata unread', 'What their metadata say is not known: presets that keep any group of them fail for these.', {
    kind: 'read-again',
  }),
  'smaller-than-asked': kind((preset) => `Smaller than “${preset}” asks`, 'They keep their size, short of the target.', 'without'),
  'house-short': kind('Too small for the receiver', 'The receiver may send them back.', { kind: 'leave-out' }),
  'place-kept': kind('A place would go out', 'Whoever gets the files can read where they were made.', { kind: 'drop-place' }),
  'no-profile': kind('No colour profile', 'Their colours are a guess: what is not sRGB will look dull or wrong.', {
    kind: 'assume-srgb',
  }),
  'out-of-gamut': kind('Colours that sRGB cannot hold', 'Saturated light loses its detail on the way.'),
  'rights-missing': kind('No creator, no copyright', 'They go out without saying whose they are.', { kind: 'fill-rights' }),
  'same-name': kind((preset) => `One name for several in “${preset}”`, 'All but the first get a number behind their name.'),
  mislabelled: kind('Called what they are not', 'They are read by what is inside; other programs may stumble.'),
  'already-compressed': kind('Compressed hard before', 'Blocks and blotches of the first time stay visible.', {
    kind: 'leave-out',
  }),
  'already-small': kind('Small already', 'They may be web versions themselves.', { kind: 'leave-out' }),
  'several-pages': kind('Several pages', 'One page comes out, the first unless another is chosen.'),
  'near-duplicate': kind('Almost the same frame', 'Perhaps one of them is enough.', { kind: 'leave-out' }),
  'place-present': kind('They say where they were made', 'The place goes out only where a preset keeps it.', {
    kind: 'drop-place',
  }),
  cmyk: kind('Print colour (CMYK)', 'They are converted to RGB.'),
  'not-srgb': kind('Another profile than sRGB', 'They are converted; nothing to do.'),
  deep: kind('More than 8 bits', 'Files for the web get 8, with dither.'),
  'embedded-picture': kind('Raw files', 'The finished picture in them is used; nothing is developed.'),
  fractions: kind('Numbers that are fractions', '0 is black and 1 white; what is beyond is cut off.'),
  alpha: kind('Transparent parts', 'In JPEG they are laid over the preset’s backdrop.'),
  'turned-by-tag': kind('Upright by a tag', 'Outputs are turned for good.'),
  'very-heavy': kind('Very heavy files', 'They take longer to read.'),
};

export const KINDS_IN_ORDER = Object.keys(KINDS) as readonly FindingCode[];
