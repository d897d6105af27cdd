import { type Bundle, bundleOf, Id, type Preset, type StoredPreset, type TravellingMark } from '@rundle/core';
import { addJobs, notifyTopic, travellingMark } from '@rundle/store';
import { isDeepStrictEqual } from 'node:util';
import type { Transaction } from 'sequelize';
import type { Handlers } from '../http/handlers';
import { notFound, requestProblem } from '../http/problem';
import type { Services } from '../services';
import { storeWatermark } from '../watermarks/stored';
import { createPreset, listPresets } from './stored';

/** Presets on their way out and in, with the watermarks that they name. */
export function travelHandlers({ database }: Services) {
  const { sequelize, watermarks, bundles } = database;

  return {
    exportPresets: async ({ query }) => {
      const ids = [...new Set(query.ids.split(','))];
      if (!ids.every((id) => Id.safeParse(id).success)) throw notFound('preset');
      const presets = (await listPresets(database, ids)).map(({ preset }) => preset);
      if (presets.length < ids.length) throw notFound('preset');
      const named = [...new Set(presets.flatMap(({ mark }) => mark?.watermark ?? []))].filter((id) => Id.safeParse(id).success);
      const marks = await watermarks.findAll({ where: { id: named }, order: [['createdAt', 'ASC']] });
      return bundleOf(presets[0]!.title, presets, marks.map(travellingMark));
    },

    importPresets: async ({ body }) =>
      sequelize.transaction(async (transaction) => {
        refuseMissingMarks(body);
        const ids = new Map<string, string>();
        for (const mark of body.watermarks) ids.set(mark.id, await taken(mark, transaction));
        const made: StoredPreset[] = [];
        for (const preset of body.presets) made.push(await createPreset(database, renamed(preset, ids), transaction));
        if (made.length > 1) await bundles.create({ title: body.title, presetIds: made.map(({ id }) => id) }, { transaction });
        await notifyTopic(sequelize, 'presets', transaction);
        return made;
      }),
  } satisfies Partial<Handlers>;

  /** The id that a watermark has here: its own where it is the same as one that is here already, else a new one. */
  async function taken({ id, title, mark }: TravellingMark, transaction: Transaction): Promise<string> {
    const here = Id.safeParse(id).success ? await watermarks.findOne({ where: { id, deletedAt: null }, transaction }) : null;
    if (here && isDeepStrictEqual(travellingMark(here).mark, mark)) return here.id;
    const row = await storeWatermark(
      database,
      mark.kind === 'rundle.watermark' ? { ...lettering(mark), title } : { ...mark, title },
      transaction,
    );
    await addJobs(sequelize, transaction, 'check-watermark', [{ watermarkId: row.id }]);
    await notifyTopic(sequelize, 'watermarks', transaction);
    return row.id;
  }
}

type TextMark = Extract<TravellingMark['mark'], { kind: 'rundle.watermark' }>;
const lettering = ({ text, colour, typeface, edge, adapt }: TextMark) => ({ kind: 'text' as const, text, colour, typeface, edge, adapt });

/** A preset whose watermark did not come along would never make anything. */
function refuseMissingMarks({ presets, watermarks }: Bundle): void {
  const problems = presets.flatMap(({ title, mark }) =>
    mark && !watermarks.some(({ id }) => id === mark.watermark)
      ? [
          {
            code: 'watermark-missing' as const,
            field: 'mark.watermark',
            message: `“${title}”: Watermark: it is not in the file. Export the preset again, with its watermark, or take the mark out of the file.`,
          },
        ]
      : [],
  );
  if (problems.length) throw requestProblem('invalid', problems[0]!.message, problems);
}

const renamed = (preset: Preset, ids: ReadonlyMap<string, string>): Preset =>
  preset.mark ? { ...preset, mark: { ...preset.mark, watermark: ids.get(preset.mark.watermark) ?? preset.mark.watermark } } : preset;
