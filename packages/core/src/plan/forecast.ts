import * as z from 'zod';
import { NO_DECISIONS } from '../decisions/decisions';
import { makingOf } from '../making/making';
import { stemOf } from '../name/output-name';
import { missingNameParts, partPreset, withNameParts } from '../parts/parts';
import type { Preset } from '../preset/schema';
import { FILE_TYPES } from '../types/table';
import { joinPath } from './file-place';
import { planRun, type PlanMaster, type PlannedFile } from './plan';
import { expectedBytes } from './weight';

/** What a preset would make of a whole set, in a few figures. */
export const Forecast = z
  .object({
    pictures: z.int().meta({ description: 'Of the set that the preset applies to' }),
    files: z.int().meta({ description: 'That it would make of them' }),
    arriving: z.int().meta({ description: 'Pictures of the set that are still being read, of which nothing is known yet' }),
    sizes: z
      .array(z.object({ width: z.int(), height: z.int(), pictures: z.int().meta({ description: 'Files of that size' }) }))
      .meta({ description: 'Sizes of the outputs, px, the most frequent first' }),
    smaller: z.int().meta({ description: 'Pictures that are smaller than the preset asks' }),
    bytes: z.int().meta({ description: 'Expected weight of all of them' }),
    atFloor: z.int().meta({ description: 'Files whose quality the ceiling would bring to its floor, as expected' }),
    examples: z.array(
      z.object({
        why: z.enum(['first', 'upright', 'awkward']),
        master: z.string(),
        output: z.string().meta({ description: 'Its folder and name' }),
      }),
    ),
    clashes: z.int().meta({ description: 'Outputs whose name another one has already' }),
    clash: z.string().nullable().meta({ description: 'Such a name' }),
  })
  .meta({ id: 'Forecast' });
export type Forecast = z.infer<typeof Forecast>;

/**
 * What a preset would make of a set, without looking at what is there already.
 * @param masters those that have been read, in the order of the set
 * @param arriving how many are still being read
 */
export function forecast(preset: Preset, masters: readonly PlanMaster[], setTitle: string, arriving = 0): Forecast {
  const planned = plannedAlone(preset, masters, setTitle);
  const byId = new Map(masters.map((master) => [master.id, master]));
  const sizes = new Map<string, { width: number; height: number; pictures: number }>();
  for (const { width, height } of planned) {
    const known = sizes.get(`${width} ${height}`) ?? { width, height, pictures: 0 };
    sizes.set(`${width} ${height}`, { ...known, pictures: known.pictures + 1 });
  }
  const warned = (code: string) => planned.filter(({ warnings }) => warnings.some((warning) => warning.code === code));
  const clashing = warned('same-name');
  return {
    pictures: new Set(planned.map(({ masterId }) => masterId)).size,
    files: planned.length,
    arriving,
    sizes: [...sizes.values()].sort((a, b) => b.pictures - a.pictures),
    smaller: new Set(warned('smaller-than-asked').map(({ masterId }) => masterId)).size,
    bytes: planned.reduce((sum, output) => sum + output.expectedBytes, 0),
    atFloor: planned.filter((output) => fallsToFloor(preset, byId.get(output.masterId), output)).length,
    examples: missingNameParts(preset).length ? [] : examplesOf(planned, byId),
    clashes: clashing.length,
    clash: clashing[0]?.fileName ?? null,
  };
}

/** What a picture is called, and what a file of it will be. */
export const NewName = z
  .object({ master: z.string(), output: z.string().meta({ description: 'Its folder and name' }) })
  .meta({ id: 'NewName' });
export type NewName = z.infer<typeof NewName>;

/** The names that a preset would give to the files of a set, in its order, without looking at what is there already. */
export function newNames(preset: Preset, masters: readonly PlanMaster[], setTitle: string): NewName[] {
  const names = new Map(masters.map(({ id, fileName }) => [id, fileName]));
  return plannedAlone(preset, masters, setTitle).map((output) => ({ master: names.get(output.masterId)!, output: pathOf(output) }));
}

function plannedAlone(preset: Preset, masters: readonly PlanMaster[], setTitle: string): PlannedFile[] {
  return planRun({
    setTitle,
    masters,
    // Also while its names do not tell its files apart: then they are not told.
    presets: [{ id: '', preset: withNameParts(preset), problem: null }],
    standing: () => ({ is: 'free' }),
  }).filter((output) => output.status === 'planned');
}

const pathOf = ({ folder, fileName }: PlannedFile): string => joinPath(folder, fileName);

/** Whether even the lowest quality that a ceiling allows is expected to weigh as much as the ceiling. */
function fallsToFloor(preset: Preset, master: PlanMaster | undefined, output: PlannedFile): boolean {
  const own = partPreset(preset, output.part);
  const { file } = own;
  const { ceiling } = file;
  if (!ceiling || !FILE_TYPES[file.type].lossy || !master?.read.ok) return false;
  const atFloor = { ...own, file: { ...file, match: null, quality: ceiling.floor, ceiling: null } };
  const { facts } = master.read;
  const { magnified } = makingOf(facts, own, null, master.decisions ?? NO_DECISIONS);
  return expectedBytes(facts, output, atFloor, magnified) >= ceiling.bytes;
}

/** The first picture, an upright one, and the one whose name has the most that does not belong into a name on the web. */
function examplesOf(planned: readonly PlannedFile[], masters: ReadonlyMap<string, PlanMaster>): Forecast['examples'] {
  const odd = ({ masterId }: PlannedFile) => {
    const stem = stemOf(masters.get(masterId)!.fileName);
    return [...stem].filter((letter) => !/[a-z0-9_-]/i.test(letter)).length + stem.length / 1000;
  };
  const first = planned[0];
  const awkward = planned.slice(1).toSorted((a, b) => odd(b) - odd(a))[0];
  const upright = planned.find((output) => output !== first && output !== awkward && output.height > output.width);
  const chosen = [
    ['first', first],
    ['upright', upright],
    ['awkward', awkward],
  ] as const;
  return chosen.flatMap(([why, output]) => {
    if (!output) return [];
    return [{ why, master: masters.get(output.masterId)!.fileName, output: pathOf(output) }];
  });
}
