import type { MasterFacts } from '../facts/facts';
import type { Finding } from './finding';

/** A rule looks at the facts of one master and says one thing, or nothing. */
type Rule = (facts: MasterFacts) => Finding | null;

const when = (is: boolean, severity: Finding['severity'], code: string, message: string): Finding | null =>
  is ? { code, severity, message } : null;

const RULES: readonly Rule[] = [
  ({ profile }) =>
    when(profile === null, 'look', 'no-profile', 'No colour profile is embedded; the preset’s assumption decides its colours.'),
  ({ profile, sRgb }) => when(profile !== null && !sRgb, 'note', 'not-srgb', `The colours are in ${profile ?? ''} and will be converted.`),
  ({ colourModel }) => when(colourModel === 'cmyk', 'note', 'cmyk', 'Print colour (CMYK): it will be converted to RGB.'),
  ({ bits }) => when(bits > 8, 'note', 'deep', `${bits} bits per channel; files for the web get 8.`),
  ({ alpha }) => when(alpha, 'note', 'alpha', 'Transparent parts are laid over the preset’s backdrop in JPEG.'),
  ({ pages }) => when(pages > 1, 'look', 'several-pages', `The file has ${pages} pages; only the first is used.`),
  ({ rights }) =>
    when(!rights.creator && !rights.copyright, 'look', 'rights-missing', 'Neither a creator nor a copyright notice is in the file.'),
  ({ gps }) => when(gps, 'look', 'place-present', 'The file says where it was made (GPS).'),
  ({ orientation }) =>
    when(orientation !== 1, 'note', 'turned-by-tag', 'The picture is upright only by its orientation tag; outputs are turned for good.'),
];

/** Everything worth telling about one master, before any rendering. */
export function masterFindings(facts: MasterFacts): Finding[] {
  return RULES.map((rule) => rule(facts)).filter((finding) => finding !== null);
}
