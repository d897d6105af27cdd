import { Preset, type PresetInput } from './schema';

/** Presets that a new studio starts with. Re-delivery replaces, so that copies do not pile up. */
const STARTERS: readonly PresetInput[] = [
  {
    kind: 'rundle.preset',
    version: 1,
    title: 'Gallery 2048',
    notes: 'Large enough for any screen. The usual choice for a client gallery.',
    size: { fit: 'long-edge', px: 2048 },
    file: { type: 'jpeg', quality: 80 },
    folder: 'gallery-2048',
    existing: 'replace',
  },
  {
    kind: 'rundle.preset',
    version: 1,
    title: 'Blog 900',
    notes: 'For a column of 900 px; no file over 200 KB.',
    size: { fit: 'long-edge', px: 900 },
    sharpen: { amount: 0.8, radius: 0.7 },
    file: { type: 'jpeg', quality: 82, ceiling: { bytes: 200_000, floor: 55, then: 'shrink' } },
    name: { parts: [{ part: 'set' }, { part: 'text', text: '-' }, { part: 'counter' }], case: 'lower' },
    folder: 'blog',
    existing: 'replace',
  },
  {
    kind: 'rundle.preset',
    version: 1,
    title: 'Proof print 4000',
    notes: 'For a proof print or a press office: large, light compression, all descriptions.',
    size: { fit: 'long-edge', px: 4000, ppi: 300 },
    sharpen: { amount: 0.5, radius: 1 },
    file: { type: 'jpeg', quality: 92, chroma: '4:4:4' },
    metadata: { capture: 'keep' },
    name: { parts: [{ part: 'original' }, { part: 'text', text: '_print' }] },
    folder: 'print',
    existing: 'replace',
  },
];

/** The starter presets, checked. */
export const starterPresets = (): Preset[] => STARTERS.map((input) => Preset.parse(input));
