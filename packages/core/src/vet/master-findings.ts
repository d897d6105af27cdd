import type { FindingCode } from '../codes/finding-codes';
import type { MasterFacts } from '../facts/facts';
import { extensionsOf, typeLabel } from '../types/table';
import { type Finding, finding } from './finding';

/** A rule looks at one master as it came in and says one thing, or nothing. */
type Rule = (facts: MasterFacts, fileName: string) => Finding | null;

const when = (is: boolean, code: FindingCode, message: string): Finding | null => (is ? finding(code, message) : null);

/** Share of colours outside sRGB from which it is worth a word: what the render says of its outputs as well. */
const CLIPPING = 0.005;
/** Long edge and quality below which a master is hardly an original (common practice, no source). */
const SMALL_EDGE = 1600;
const HARD_QUALITY = 70;
/** Bytes from which a finished picture is unusually heavy (common practice, no source). */
const HEAVY = 150_000_000;

const RULES: readonly Rule[] = [
  ({ format }, fileName) => {
    const extension = /\.([^.]+)$/.exec(fileName)?.[1]?.toLowerCase();
    const other = extension !== undefined && !extensionsOf(format).includes(extension);
    return when(other, 'mislabelled', `It is called .${extension ?? ''} but is ${typeLabel(format)} inside.`);
  },
  ({ profile }) => when(profile === null, 'no-profile', 'No colour profile is embedded; the preset’s assumption decides its colours.'),
  ({ outsideSrgb }) => {
    const percent = Math.round((outsideSrgb?.share ?? 0) * 1000) / 10;
    const message = `${percent} % of the pixels hold colours that sRGB cannot; they will be clipped.`;
    return when((outsideSrgb?.share ?? 0) >= CLIPPING, 'out-of-gamut', message);
  },
  ({ jpegQuality, width, height }) => {
    const edge = Math.max(width, height);
    if (jpegQuality !== null && jpegQuality < HARD_QUALITY)
      return when(true, 'already-compressed', `Compressed hard before: about quality ${jpegQuality}. Is this the original?`);
    return when(edge < SMALL_EDGE, 'already-small', `Only ${edge} px on the long edge. Is this the original?`);
  },
  ({ metadataUnread }) =>
    when(metadataUnread, 'metadata-unread', 'Its metadata could not be read; nothing is filled in, and none of them go out.'),
  ({ rights, metadataUnread }) =>
    when(
      !metadataUnread && !rights.creator && !rights.copyright,
      'rights-missing',
      'Neither a creator nor a copyright notice is in the file.',
    ),
  ({ gps }) => when(gps, 'place-present', 'The file says where it was made (GPS).'),
  ({ pages }) => when(pages > 1, 'several-pages', `The file has ${pages} pages; one of them is used.`),
  ({ profile, sRgb }) => when(profile !== null && !sRgb, 'not-srgb', `The colours are in ${profile ?? ''} and will be converted.`),
  ({ colourModel }) => when(colourModel === 'cmyk', 'cmyk', 'Print colour (CMYK): it will be converted to RGB.'),
  ({ bits }) => when(bits > 8, 'deep', `${bits} bits per channel; files for the web get 8.`),
  ({ format, width, height }) =>
    when(format === 'raw', 'embedded-picture', `The camera’s own JPEG, ${width} x ${height}, is used; the raw data are not developed.`),
  ({ fractions }) =>
    when(fractions, 'fractions', 'Its numbers are fractions: 0 is black and 1 white in its profile; what is beyond is cut off.'),
  ({ alpha }) => when(alpha, 'alpha', 'Transparent parts are laid over the preset’s backdrop in JPEG.'),
  ({ orientation }) =>
    when(orientation !== 1, 'turned-by-tag', 'The picture is upright only by its orientation tag; outputs are turned for good.'),
  ({ bytes }) => when(bytes > HEAVY, 'very-heavy', `${Math.round(bytes / 1e6)} MB: reading it takes a while.`),
];

/** Everything worth telling about one master, before any rendering. */
export function masterFindings(facts: MasterFacts, fileName: string): Finding[] {
  return RULES.map((rule) => rule(facts, fileName)).filter((finding) => finding !== null);
}
