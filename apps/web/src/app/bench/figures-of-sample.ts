import { computed, type Signal } from '@angular/core';
import {
  carriedFacts,
  type Expectation,
  FILE_TYPES,
  finding,
  type Finding,
  FINDING_CODES,
  HALOS_WORTH_TELLING,
  type MasterDetail,
  missingNameParts,
  partPreset,
  type PlannedFile,
  planRun,
  type Preset,
  type SampleFacts,
  withNameParts,
} from '@rundle/core';
import { counted, weight } from '../look/figures';

/** What stands under the sample: what the output will be, and what has changed against the saved preset. */
export interface SampleFigures {
  size: string;
  weight: string;
  /** Whether the weight is that of a file that has been made. */
  isTrue: boolean;
  quality: string;
  name: string;
  change: string;
  findings: Finding[];
}

interface Inputs {
  /** The whole preset, and which of its files is meant; several panels: all of them. */
  preset: Signal<Preset | null>;
  part: Signal<string>;
  saved: Signal<Preset | null>;
  master: Signal<MasterDetail | null>;
  setTitle: Signal<string>;
  place: Signal<number>;
  made: Signal<SampleFacts | null>;
  madeBySaved: Signal<SampleFacts | null>;
}

export function figuresOf({ preset, part, saved, master, setTitle, place, made, madeBySaved }: Inputs): Signal<SampleFigures | null> {
  return computed(() => {
    const [wanted, picture] = [preset(), master()];
    if (!wanted || picture?.state !== 'ready') return null;
    const facts = carriedFacts(picture.facts, picture.overrides);
    const all = planRun({
      setTitle: setTitle(),
      // Shown whether the preset applies to it or not: it is there to try things on.
      masters: [{ ...picture, rating: picture.stars, tags: [], decisions: picture.overrides, read: { ok: true, facts } }],
      from: place(),
      // Its figures are told also while its names do not tell its files apart; names are not.
      presets: [{ id: '', preset: { ...withNameParts(wanted), applies: { minRating: 0, tags: [] } }, problem: null }],
      standing: () => ({ is: 'free' }),
    });
    const isNamed = missingNameParts(wanted).length === 0;
    const files = all.filter((output) => output.status === 'planned');
    const planned = files.find((output) => output.part === part());
    if (wanted.panels && part() === '' && files[0]) return figuresOfPanels(files, isNamed);
    if (!planned) return null;
    const own = partPreset(wanted, part());
    const whole = made();
    const before = madeBySaved();
    const { width, height } = whole?.output ?? planned;
    const bytes = whole?.bytes ?? planned.expectedBytes;
    const lossy = FILE_TYPES[wanted.file.type].lossy;
    return {
      size: `${width} × ${height} px`,
      weight: whole ? weight(bytes) : `about ${weight(bytes)}`,
      isTrue: whole !== null,
      quality: !lossy ? 'without loss' : whole ? `quality ${whole.quality}` : openQuality(own),
      name: isNamed ? [planned.folder, planned.fileName].filter(Boolean).join('/') : '',
      change: whole && before && saved() ? changeOf(whole, before) : '',
      findings: [...planned.warnings, ...(whole?.warnings ?? []), ...haloOf(whole)],
    };
  });
}

/** Of all panels together. */
function figuresOfPanels(files: readonly PlannedFile[], isNamed: boolean): SampleFigures {
  const sizes = [...new Set(files.map(({ width, height }) => `${width} × ${height} px`))];
  const [first, last] = [files[0]!, files.at(-1)!];
  return {
    size: sizes.length === 1 ? `${counted(files.length, 'panel')} of ${sizes[0]}` : counted(files.length, 'panel'),
    weight: `about ${weight(files.reduce((sum, { expectedBytes: bytes }) => sum + bytes, 0))} together`,
    isTrue: false,
    quality: '',
    name: !isNamed ? '' : `${[first.folder, first.fileName].filter(Boolean).join('/')} to ${last.fileName}`,
    change: '',
    findings: [...first.warnings],
  };
}

function openQuality({ file }: Preset): string {
  if (file.match !== null) return 'quality being looked for';
  return file.ceiling ? `quality ${file.quality} at most` : `quality ${file.quality}`;
}

function changeOf(now: SampleFacts, before: SampleFacts): string {
  const parts: string[] = [];
  const bytes = (now.bytes ?? 0) - (before.bytes ?? 0);
  if (bytes !== 0) parts.push(`${weight(Math.abs(bytes))} ${bytes < 0 ? 'lighter' : 'heavier'}`);
  if (now.output.width !== before.output.width || now.output.height !== before.output.height)
    parts.push(`was ${before.output.width} × ${before.output.height} px`);
  if (now.quality !== before.quality && before.quality !== null) parts.push(`was quality ${before.quality}`);
  return parts.length ? `against the saved version: ${parts.join(', ')}` : 'as heavy as the saved version';
}

function haloOf(facts: SampleFacts | null): Finding[] {
  const halo = facts?.halo;
  if (!halo || halo.seen < HALOS_WORTH_TELLING) return [];
  return [finding('halos', FINDING_CODES.halos.means)];
}

/** Why the picture is not yet that of the file. */
export function expectation(expected: readonly Expectation[], preset: Preset): string {
  const { label } = FILE_TYPES[preset.file.type];
  if (expected.includes('size')) return 'about right: under the ceiling it gets smaller';
  if (expected.includes('quality')) return 'about right: its quality is being found';
  if (expected.includes('blocks')) return `about right: all of the ${label} is being made`;
  return expected.includes('chroma') ? 'about right: all of the file is being made' : '';
}
