import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { exampleHouseRules, starterPresets, StudioDetails } from '@rundle/core';
import { MASTERS, SET_TITLE, STUDIO } from '@rundle/demo';
import type { Database } from '@rundle/store';
import type { Services } from './services';
import { createPreset } from './presets/stored';
import { addMasters, type Arrived } from './masters/take-in';

/**
 * Fills an empty database on the very first start: starter presets, and the demo set where its pictures are there. The studio is left
 * empty, since it signs everything; the demo set signs with details of its own.
 */
export async function seed({ config, database, files, log }: Services): Promise<void> {
  if (await database.studio.findByPk(1)) return moveDemoStudio(database);
  const arrived: Arrived[] = [];
  for (const { fileName } of config.demoMasters ? MASTERS : []) {
    const path = join(config.demoMasters, fileName);
    const standing = await files.masters.standing(path);
    arrived.push({ ...(await files.masters.takeCopy(path, fileName)), modified: standing?.mtimeMs ?? null });
  }
  // All at once: a first start that is cut off leaves nothing half filled.
  await database.sequelize.transaction(async (transaction) => {
    for (const { preset, ...place } of starterPresets()) await createPreset(database, preset, transaction, place);
    for (const body of exampleHouseRules()) await database.houseRules.create({ body }, { transaction });
    if (arrived.length) {
      const set = await database.sets.create({ title: SET_TITLE, rights: STUDIO }, { transaction });
      await addMasters(database, set.id, arrived, 'add', transaction);
    }
    await database.studio.create({ id: 1, details: StudioDetails.parse({}) }, { transaction });
  });
  if (arrived.length) log.info({ pictures: arrived.length }, 'demo set brought in');
}

/**
 * Earlier releases wrote the demo's invented photographer into the studio, and so into everybody's pictures. Where nobody has changed
 * that, the words go to the demo set, and the studio is empty.
 */
async function moveDemoStudio({ sequelize, sets, studio }: Database): Promise<void> {
  const row = await studio.findByPk(1);
  if (!row || !isDeepStrictEqual(StudioDetails.parse(row.details), StudioDetails.parse(STUDIO))) return;
  await sequelize.transaction(async (transaction) => {
    await sets.update({ rights: STUDIO }, { where: { title: SET_TITLE }, transaction });
    await row.update({ details: StudioDetails.parse({}) }, { transaction });
  });
}
