import { FILE_TYPES, fileByType } from '../types/table';
import { FIELDS, kilobytes, percentAlike, starsAndUp } from './descriptors';
import { type FieldPath, valueAt } from './field-paths';
import { canvasSentence, panelsSentence } from '../parts/typed';
import { activeTone } from '../tone/schema';
import { METADATA_GROUPS, type Preset } from './schema';

/** The rungs of a preset, in the order in which a picture climbs them. */
export const RUNGS = ['size', 'tone', 'colour', 'sharpen', 'mark', 'print', 'file', 'metadata', 'name', 'folder'] as const;

/** What a preset says, in the order in which it is read: which masters it is for, then its rungs. */
export const PARTS = ['applies', ...RUNGS] as const;
export type Part = (typeof PARTS)[number];

/** A piece of a sentence: plain words, or a value of the preset that can be edited where it stands. */
export type Piece = { kind: 'text'; text: string } | { kind: 'value'; field: FieldPath; text: string };

const text = (words: string): Piece => ({ kind: 'text', text: words });

/** A value as its field says it. */
function value(preset: Preset, field: FieldPath): Piece {
  const says = FIELDS[field].says as (value: unknown) => string;
  return { kind: 'value', field, text: says(valueAt(preset, field)) };
}

/**
 * A sentence with values in it: `sentence(preset, 'Into the folder ', ['folder'], '.')`.
 * @param parts words, or a field in brackets
 */
const sentence = (preset: Preset, ...parts: readonly (string | readonly [FieldPath])[]): Piece[] =>
  parts.map((part) => (typeof part === 'string' ? text(part) : value(preset, part[0])));

/**
 * What a preset does, part by part, as sentences: "Long edge **1920 px**, never enlarged."
 * @param watermarkTitle what the watermark that the preset names is called; without, its id or file stands there
 * @example presetSentences(preset).file // [{ kind: 'value', field: 'file.type', text: 'JPEG' }, { kind: 'text', text: ' of ' }, ...]
 */
export function presetSentences(preset: Preset, watermarkTitle?: string): Record<Part, Piece[]> {
  const said = allSentences(preset, watermarkTitle);
  return preset.file.type === 'original' ? { ...said, ...UNTOUCHED } : said;
}

/** What the rungs that would change something say of an untouched copy. */
const UNTOUCHED: Pick<Record<Part, Piece[]>, 'size' | 'tone' | 'colour' | 'sharpen' | 'mark' | 'print' | 'metadata'> = {
  size: [text('As large as the master.')],
  tone: [text('Tone as it is.')],
  colour: [text('The master’s own colours and profile.')],
  sharpen: [text('Not sharpened.')],
  mark: [text('No watermark, no border.')],
  print: [text('Not divided, no canvas edges.')],
  metadata: [text('Everything in the file goes out, where it was made included.')],
};

function allSentences(preset: Preset, watermarkTitle?: string): Record<Part, Piece[]> {
  return {
    applies: sentence(preset, 'For ', ['applies.tags'], ', ', ['applies.minRating'], '; never those left out.'),
    size: sizeSentence(preset),
    tone: toneSentence(preset),
    colour: colourSentence(preset),
    sharpen: sharpenSentence(preset),
    mark: markSentence(preset, watermarkTitle),
    print: printSentence(preset),
    file: fileSentence(preset),
    metadata: metadataSentence(preset),
    name: sentence(preset, 'Named ', ['name.parts'], ', ', ['name.case'], ', ', ['name.webSafe'], '.'),
    folder: sentence(
      preset,
      'Into the folder ',
      ['folder'],
      ', ',
      ['place'],
      '. When somebody else’s file of that name is there, ',
      ['existing'],
      '.',
    ),
  };
}

const plainText = (pieces: readonly Piece[]): string => pieces.map((piece) => piece.text).join('');

/** The whole preset in one line: "Long edge 2048 px, sRGB, JPEG quality 80; only tagged hero". */
export function presetInShort(preset: Preset): string {
  const { file, colour } = preset;
  if (file.type === 'original') return `${FILE_TYPES[file.type].label} of the master${onlyFor(preset)}`;
  const ratio = preset.size.ratio ? `, ${value(preset, 'size.ratio').text}` : '';
  const size = plainText(lengths(preset)).replace(/ +/g, ' ').trim() + ratio + piecesInShort(preset) + toneInShort(preset);
  const space = colour.space === 'keep' ? 'colours as they are' : value(preset, 'colour.space').text;
  const lossy = file.match === null ? `quality ${file.quality}` : `${percentAlike(file.match)} fidelity`;
  const quality = FILE_TYPES[file.type].lossy ? lossy : `${file.bits} bits`;
  const ceiling = file.ceiling ? `, at most ${kilobytes(file.ceiling.bytes)}` : '';
  return `${size}, ${space}, ${FILE_TYPES[file.type].label} ${quality}${ceiling}${onlyFor(preset)}`;
}

/** What its tone is, where it is one value; else that there is one. */
function toneInShort({ tone }: Preset): string {
  if (!activeTone(tone)) return '';
  const alone = activeTone(tone && { ...tone, exposure: 0 }) === null;
  return tone && alone ? `, ${FIELDS['tone.exposure'].says(tone.exposure)}` : ', with a tone';
}

const piecesInShort = ({ panels, canvas }: Preset): string =>
  [panels ? panelsSentence(panels) : '', canvas ? canvasSentence(canvas) : ''].map((said) => said && `, ${said.toLowerCase()}`).join('');

/** Which pictures a preset is for, where it is not for all: "only tagged hero". */
export function onlyForSome({ applies: { minRating, tags } }: Preset): string {
  const some = [...(tags.length ? [`tagged ${tags.join(' or ')}`] : []), ...(minRating ? [starsAndUp(minRating)] : [])];
  return some.length ? `only ${some.join(', ')}` : '';
}

function onlyFor(preset: Preset): string {
  const only = onlyForSome(preset);
  return only && `; ${only}`;
}

const BOXED: readonly Preset['size']['fit'][] = ['box', 'cover', 'stretch'];
const fitsOf = ({ size }: Preset): Preset['size']['fit'][] => (size.sizes.length ? size.sizes.map(({ fit }) => fit) : [size.fit]);
const isBoxed = (preset: Preset): boolean => fitsOf(preset).some((fit) => BOXED.includes(fit));

function lengths(preset: Preset): Piece[] {
  const { fit, sizes } = preset.size;
  if (sizes.length) return sentence(preset, ['size.sizes'], ' ', ['size.unit']);
  if (fit === 'original') return sentence(preset, ['size.fit']);
  if (fit === 'percent') return sentence(preset, ['size.fit'], ' ', ['size.percent']);
  if (fit === 'megapixels') return sentence(preset, ['size.fit'], ' ', ['size.megapixels']);
  if (BOXED.includes(fit)) return sentence(preset, ['size.fit'], ' ', ['size.width'], ' × ', ['size.height'], ' ', ['size.unit']);
  return sentence(preset, ['size.fit'], ' ', ['size.px'], ' ', ['size.unit']);
}

function sizeSentence(preset: Preset): Piece[] {
  const { ratio } = preset.size;
  return [
    ...(preset.size.sizes.length ? [text('Several sizes: ')] : []),
    ...lengths(preset),
    ...(isBoxed(preset) ? sentence(preset, ', ', ['size.turn']) : []),
    ...(fitsOf(preset).includes('cover') ? sentence(preset, ', keeping the ', ['size.anchor']) : []),
    ...sentence(preset, ', ', ['size.ratio']),
    ...(ratio && ratio.w !== ratio.h ? sentence(preset, ', ', ['size.ratio.turn']) : []),
    ...sentence(preset, ', ', ['size.enlarge'], '. Resampled with ', ['size.kernel'], ' in ', ['size.light']),
    ...sentence(preset, '; tagged ', ['size.ppi'], '.'),
    ...(preset.size.sizes.length ? [] : sentence(preset, ' ', ['size.sizes'], '.')),
  ];
}

function toneSentence(preset: Preset): Piece[] {
  const { tone } = preset;
  if (!tone) return sentence(preset, ['tone'], '.');
  const points = tone.auto
    ? sentence(preset, ': ', ['tone.auto.low'], ' may be black, ', ['tone.auto.high'], ' white, at most ', ['tone.auto.limit'], '. ')
    : sentence(preset, ': black ', ['tone.black'], ', white ', ['tone.white'], '. ');
  return [
    ...sentence(preset, ['tone'], ': exposure ', ['tone.exposure'], ', contrast ', ['tone.contrast'], ', saturation ', ['tone.saturation']),
    ...sentence(preset, ', warmth ', ['tone.warmth'], '; shadows ', ['tone.shadows'], ', highlights ', ['tone.highlights']),
    ...sentence(preset, ', gamma ', ['tone.gamma'], '. Black and white point ', ['tone.auto']),
    ...points,
    ...sentence(preset, 'Local contrast ', ['tone.local']),
    ...(tone.local ? sentence(preset, ' by ', ['tone.local.amount'], ' over ', ['tone.local.radius']) : []),
    ...sentence(preset, ', sharpening before the size ', ['tone.before']),
    ...(tone.before
      ? sentence(preset, ' by ', ['tone.before.amount'], ', radius ', ['tone.before.radius'], ', from ', ['tone.before.threshold'])
      : []),
    text('.'),
  ];
}

function colourSentence(preset: Preset): Piece[] {
  const { space, intent } = preset.colour;
  const converted =
    space === 'keep'
      ? sentence(preset, 'Colours stay in ', ['colour.space'], ' space.')
      : [
          ...sentence(preset, 'Converted to ', ['colour.space'], ', ', ['colour.intent'], intent === 'relative' ? ' ' : ', '),
          ...sentence(preset, ['colour.blackPoint'], '.'),
        ];
  return [
    ...converted,
    ...sentence(preset, ' Pictures without a profile are treated as ', ['colour.untagged'], '. The profile is ', ['colour.embed']),
    ...sentence(preset, '; ', ['colour.dither'], ' on the way to 8 bits. Where a file has no transparency, clear parts lie over '),
    ...sentence(preset, ['colour.backdrop'], '.'),
  ];
}

function sharpenSentence(preset: Preset): Piece[] {
  if (!preset.sharpen) return sentence(preset, ['sharpen'], '.');
  return [
    ...sentence(preset, ['sharpen'], ': amount ', ['sharpen.amount'], ', radius ', ['sharpen.radius']),
    ...sentence(preset, ', from a difference of ', ['sharpen.threshold'], '.'),
  ];
}

function markSentence(preset: Preset, title: string | undefined): Piece[] {
  const { mark, border } = preset;
  const watermark: Piece[] = mark
    ? [
        text('Watermark '),
        { kind: 'value', field: 'mark.watermark', text: title ?? mark.watermark },
        ...sentence(preset, ' ', ['mark.place'], ', ', ['mark.size'], ' of the short edge large and ', ['mark.margin']),
        ...sentence(preset, ' from the edges, opacity ', ['mark.opacity'], '. '),
      ]
    : sentence(preset, ['mark'], '. ');
  return [...watermark, ...sentence(preset, ['border']), ...(border ? sentence(preset, ' in ', ['border.colour']) : []), text('.')];
}

function printSentence(preset: Preset): Piece[] {
  const { panels, canvas } = preset;
  const divided = panels
    ? [
        ...sentence(preset, ['panels'], ', with ', ['panels.overlap']),
        ...(panels.overlap ? sentence(preset, ' ', ['panels.unit']) : []),
        ...sentence(preset, ', ', ['panels.order'], '. '),
      ]
    : sentence(preset, ['panels'], '. ');
  const edges = canvas
    ? sentence(preset, ['canvas'], ' show ', ['canvas.fill'], ', opacity ', ['canvas.opacity'], ', ', ['canvas.marks'], '.')
    : sentence(preset, ['canvas'], '.');
  return [...divided, ...edges];
}

function fileSentence(preset: Preset): Piece[] {
  const { type, match, ceiling } = preset.file;
  if (type === 'original') return sentence(preset, ['file.type'], ': the master’s own bytes, under another name.');
  const settings = fileByType(preset.file);
  const hasWays = 'progressive' in settings;
  if (!FILE_TYPES[type].lossy)
    return [
      ...sentence(preset, ['file.type'], ' of ', ['file.bits'], ' bits per channel'),
      ...('compression' in settings ? sentence(preset, ', ', ['file.compression']) : []),
      text('.'),
    ];
  return [
    ...sentence(preset, ['file.type'], ' of ', ['file.match']),
    ...(match === null ? sentence(preset, ', ', ['file.quality']) : []),
    ...sentence(preset, ', ', ['file.ceiling']),
    ...(ceiling ? sentence(preset, ', not below quality ', ['file.ceiling.floor'], '; if that is too heavy, ', ['file.ceiling.then']) : []),
    ...(hasWays ? sentence(preset, '. ', ['file.progressive']) : []),
    ...(FILE_TYPES[type].chroma === 'smart' ? [] : sentence(preset, hasWays ? ', chroma ' : '. Chroma ', ['file.chroma'])),
    text('.'),
  ];
}

function metadataSentence(preset: Preset): Piece[] {
  const { metadata } = preset;
  const groups = (policy: 'keep' | 'remove', lead: string): Piece[] => {
    const pieces = METADATA_GROUPS.filter((group) => metadata[group] === policy).flatMap((group, index) =>
      sentence(preset, index ? ', ' : lead, [`metadata.${group}`]),
    );
    return pieces.length ? [...pieces, text('. ')] : [];
  };
  return [
    ...groups('keep', 'Kept: '),
    ...groups('remove', 'Removed: '),
    ...(metadata.rights === 'keep' ? sentence(preset, 'Missing rights are ', ['metadata.fill'], '. ') : []),
    ...sentence(preset, 'The file’s own time is ', ['metadata.fileTime'], '.'),
  ];
}
