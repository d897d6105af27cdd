import { Preset, type PresetInput } from './schema';

/** A preset that a new studio starts with, and the group that it stands in. */
export interface Starter {
  group: string;
  /** Whether it stands first, here and in Plan. */
  favourite: boolean;
  preset: Preset;
}

type Said = Omit<PresetInput, 'kind' | 'version'>;

const web = { group: 'Web pages', existing: 'replace' } as const;
const social = { group: 'Feeds and mail', existing: 'replace' } as const;
const fine = { group: 'Shop and print', existing: 'replace' } as const;
const whole = { group: 'Archive', existing: 'replace' } as const;

/** A name that tells small from large: the original one and what it is for. */
const named = (text: string): Said['name'] => ({ parts: [{ part: 'original' }, { part: 'text', text }] });
/** One of several sizes, by its long edge. */
const size = (label: string, px: number) => ({ label, px });
const bySize: Said['name'] = { parts: [{ part: 'original' }, { part: 'text', text: '_' }, { part: 'size' }] };
const everything = { capture: 'keep', place: 'keep', rating: 'keep', other: 'keep' } as const;

/**
 * Sizes are the usual ones of the trade (common practice, no source); 4000 px, 300 ppi and Adobe RGB are what print houses ask for. Delivering
 * again replaces, so that copies do not pile up.
 */
const STARTERS: readonly (Said & { group: string })[] = [
  {
    ...web,
    title: 'Gallery 2048',
    notes: 'Large enough for any screen: the usual client gallery.',
    size: { px: 2048 },
    folder: 'gallery-2048',
  },
  {
    ...web,
    title: 'Blog column 850',
    notes: 'For a column of 850 to 900 px; no file over 200 KB.',
    size: { px: 850 },
    sharpen: { amount: 0.8, radius: 0.7 },
    file: { quality: 82, ceiling: { bytes: 200_000, floor: 55, then: 'shrink' } },
    name: { parts: [{ part: 'set' }, { part: 'text', text: '-' }, { part: 'counter' }], case: 'lower' },
    folder: 'blog',
  },
  {
    ...fine,
    title: 'Print copy 4000',
    notes: 'For a proof print or a press office: large, light compression, all descriptions.',
    size: { px: 4000, ppi: 300 },
    sharpen: { amount: 0.5, radius: 1 },
    file: { quality: 92, chroma: '4:4:4' },
    metadata: { capture: 'keep' },
    name: named('_print'),
    folder: 'print',
  },
  { ...web, title: 'Gallery 1280', notes: 'A picture across the page of a gallery.', size: { px: 1280 }, folder: 'gallery-1280' },
  {
    ...web,
    title: 'Gallery 1440 x 1000',
    notes: 'Across a wide page, never higher than the window.',
    size: { fit: 'box', width: 1440, height: 1000, turn: false },
    folder: 'gallery-1440',
  },
  { ...web, title: 'Full HD 1920', notes: 'Fills a screen or a projector of 1920 px.', size: { px: 1920 }, folder: 'full-hd' },
  {
    ...web,
    title: 'Hero 1920',
    notes: 'The picture that opens a page: 1920 px wide, no heavier than 500 KB.',
    size: { fit: 'width', px: 1920 },
    file: { quality: 80, ceiling: { bytes: 500_000, floor: 60, then: 'shrink' } },
    folder: 'hero',
  },
  {
    ...web,
    title: 'Tablet 1024 x 768',
    notes: 'Fits a tablet’s screen, lying or standing.',
    size: { fit: 'box', width: 1024, height: 768 },
    folder: 'tablet',
  },
  {
    ...web,
    title: 'Phone 480',
    notes: 'Small screens and slow lines.',
    size: { px: 480 },
    sharpen: { amount: 0.8, radius: 0.6 },
    folder: 'phone',
  },
  {
    ...web,
    title: 'Small, medium, large',
    notes: 'Three sizes of each picture, told apart by their names: for mails, pages and galleries.',
    size: { sizes: [size('small', 480), size('medium', 1024), size('large', 2048)] },
    name: bySize,
    folder: 'sizes',
  },
  {
    ...web,
    title: 'Gallery family WebP',
    notes: 'Four widths of each picture, from which a gallery’s page lets each screen take the right one.',
    size: { sizes: [size('s', 640), size('m', 1280), size('l', 1920), size('xl', 2560)] },
    file: { type: 'webp', quality: 80 },
    name: bySize,
    folder: 'gallery',
  },
  {
    ...social,
    title: 'Square feed 1080',
    notes: 'Cut to a square around what matters.',
    size: { fit: 'cover', width: 1080, height: 1080 },
    file: { quality: 85 },
    folder: 'square',
  },
  { ...social, title: 'Feed 2048', notes: 'For feeds that compress once more.', size: { px: 2048 }, file: { quality: 60 }, folder: 'feed' },
  {
    ...social,
    title: 'Mail 740',
    notes: 'Many in one letter: about 100 KB each.',
    size: { px: 740 },
    file: { quality: 75, ceiling: { bytes: 120_000, floor: 50, then: 'shrink' } },
    name: named('_mail'),
    folder: 'mail',
  },
  {
    ...fine,
    title: 'Shop short edge 2000',
    notes: 'For shops that zoom: 2,000 px on the short side.',
    size: { fit: 'short-edge', px: 2000 },
    file: { quality: 88 },
    name: named('_shop'),
    folder: 'shop',
  },
  {
    ...fine,
    title: 'Print house 300 ppi',
    notes: 'All pixels in Adobe RGB, tagged 300 ppi, as print houses take it.',
    size: { fit: 'original', ppi: 300 },
    colour: { space: 'adobe-rgb' },
    sharpen: null,
    file: { quality: 95, chroma: '4:4:4' },
    name: named('_300ppi'),
    folder: 'print-house',
  },
  {
    ...whole,
    title: 'Archive TIFF 16-bit',
    notes: 'All pixels in 16 bits, in the master’s own colours, nothing left out.',
    size: { fit: 'original', ppi: null },
    colour: { space: 'keep' },
    sharpen: null,
    file: { type: 'tiff', bits: 16 },
    metadata: everything,
    name: { parts: [{ part: 'original' }] },
    folder: 'archive',
  },
  {
    ...whole,
    title: 'Untouched copy',
    notes: 'The masters themselves, renamed, for whoever shall have them.',
    file: { type: 'original' },
    name: { parts: [{ part: 'original' }] },
    folder: 'originals',
  },
];

/** What most deliveries need. */
const FAVOURITES: ReadonlySet<string> = new Set(['Gallery 2048', 'Blog column 850', 'Print copy 4000']);

/** The starter presets, checked, in the order of their groups. */
export const starterPresets = (): Starter[] =>
  STARTERS.map(({ group, ...said }) => ({
    group,
    favourite: FAVOURITES.has(said.title),
    preset: Preset.parse({ kind: 'rundle.preset', version: 1, ...said }),
  }));
