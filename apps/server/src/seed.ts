import { join } from 'node:path';
import { exampleHouseRules, starterPresets, StudioDetails } from '@rundle/core';
import { MASTERS, SET_TITLE, STUDIO } from '@rundle/demo';
import type { Services } from './services';
import { createPreset } from './presets/stored';
import { addMasters, storeFile } from './masters/take-in';

/** Fills an empty database on the very first start: starter presets, and the demo set where its pictures are there. */
export async function seed({ config, database, storage, log }: Services): Promise<void> {
  if (await database.studio.findByPk(1)) return;
  for (const preset of starterPresets()) await createPreset(database, preset);
  for (const body of exampleHouseRules()) await database.houseRules.create({ body });
  if (config.demoMasters) await seedDemo();
  // Written last: it says that the first start has been completed.
  await database.studio.upsert({ id: 1, details: StudioDetails.parse(config.demoMasters ? STUDIO : {}) });

  async function seedDemo(): Promise<void> {
    const files = [];
    for (const { fileName } of MASTERS) files.push(await storeFile(storage, join(config.demoMasters, fileName), fileName));
    const [set] = await database.sets.findOrCreate({ where: { title: SET_TITLE }, defaults: { title: SET_TITLE } });
    await addMasters(database, set.id, files, 'add');
    log.info({ pictures: files.length }, 'demo set brought in');
  }
}
