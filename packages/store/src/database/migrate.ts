import { runMigrations } from 'graphile-worker';
import { SequelizeStorage, Umzug } from 'umzug';
import type { Transaction } from 'sequelize';
import type { Database } from './connection';
import { firstTables } from './migrations/0001-first-tables';
import { watermarksAndRecipes } from './migrations/0002-watermarks-and-recipes';
import { marksAndHouseRules } from './migrations/0003-marks-and-house-rules';
import { shelvesAndMachineFolders } from './migrations/0004-shelves-and-machine-folders';
import { orderOfArrival } from './migrations/0005-order-of-arrival';
import { attemptsAndTargets, findTargets } from './migrations/0006-attempts-and-targets';
import { overridesAndIndexes } from './migrations/0007-overrides-and-indexes';
import { statesAndNewestOutputs } from './migrations/0008-states-and-newest-outputs';
import { typesOfWorkers } from './migrations/0009-types-of-workers';
import { runsAndPlaces } from './migrations/0011-runs-and-places';
import { standingOrders } from './migrations/0012-standing-orders';
import { measuredOutputs } from './migrations/0013-measured-outputs';
import { secondLooks } from './migrations/0014-second-looks';
import { lengthsOfArrivals } from './migrations/0015-lengths-of-arrivals';
import { deliveries } from './migrations/0016-deliveries';
import { libraryAndMarks } from './migrations/0010-library-and-marks';
import { identityAndTwins } from './migrations/0017-identity-and-twins';
import { decisionsAndParts } from './migrations/0018-decisions-and-parts';
import { movesAndLooks } from './migrations/0019-moves-and-looks';
import { backups } from './migrations/0020-backups';
import { guessedWeights } from './migrations/0021-guessed-weights';
import { judgementsAnew } from './migrations/0022-judgements-anew';
import { seeingMasters } from './migrations/0023-seeing-masters';
import { revisions } from './migrations/0024-revisions';
import { checkedDeliveries } from './migrations/0025-checked-deliveries';
import { cacheBound } from './migrations/0026-cache-bound';
import { openOutputs } from './migrations/0027-open-outputs';
import { workersAtWork } from './migrations/0028-workers-at-work';

interface Migration {
  name: string;
  sql: string;
  /** What SQL cannot do, behind it in the same transaction. */
  then?: (database: Database, transaction: Transaction, outputs: string) => Promise<void>;
}

const MIGRATIONS: readonly Migration[] = [
  { name: '0001-first-tables', sql: firstTables },
  { name: '0002-watermarks-and-recipes', sql: watermarksAndRecipes },
  { name: '0003-marks-and-house-rules', sql: marksAndHouseRules },
  { name: '0004-shelves-and-machine-folders', sql: shelvesAndMachineFolders },
  { name: '0005-order-of-arrival', sql: orderOfArrival },
  {
    name: '0006-attempts-and-targets',
    sql: attemptsAndTargets,
    then: ({ sequelize }, transaction, outputs) => findTargets(sequelize, transaction, outputs),
  },
  { name: '0007-overrides-and-indexes', sql: overridesAndIndexes },
  { name: '0008-states-and-newest-outputs', sql: statesAndNewestOutputs },
  { name: '0009-types-of-workers', sql: typesOfWorkers },
  { name: '0010-library-and-marks', sql: libraryAndMarks },
  { name: '0011-runs-and-places', sql: runsAndPlaces },
  { name: '0012-standing-orders', sql: standingOrders },
  { name: '0013-measured-outputs', sql: measuredOutputs },
  { name: '0014-second-looks', sql: secondLooks },
  { name: '0015-lengths-of-arrivals', sql: lengthsOfArrivals },
  { name: '0016-deliveries', sql: deliveries },
  { name: '0017-identity-and-twins', sql: identityAndTwins },
  { name: '0018-decisions-and-parts', sql: decisionsAndParts },
  { name: '0019-moves-and-looks', sql: movesAndLooks },
  { name: '0020-backups', sql: backups },
  { name: '0021-guessed-weights', sql: guessedWeights },
  { name: '0022-judgements-anew', sql: judgementsAnew },
  { name: '0023-seeing-masters', sql: seeingMasters },
  { name: '0024-revisions', sql: revisions },
  { name: '0025-checked-deliveries', sql: checkedDeliveries },
  { name: '0026-cache-bound', sql: cacheBound },
  { name: '0027-open-outputs', sql: openOutputs },
  { name: '0028-workers-at-work', sql: workersAtWork },
];

/** By their names, the earliest first: which state of the tables is known. */
export const MIGRATION_NAMES: readonly string[] = MIGRATIONS.map(({ name }) => name);

/** Any number: programs that start at once take turns by it. */
const LOCK = 48_201;

/**
 * Brings the tables of Rundle and of its queue up to date. Safe to call from several programs at once.
 * @param outputs folder in which the targets of all sets lie
 */
export async function migrate(database: Database, databaseUrl: string, outputs: string): Promise<void> {
  const { sequelize } = database;
  await sequelize.transaction(async (transaction) => {
    await sequelize.query(`SELECT pg_advisory_xact_lock(${LOCK})`, { transaction });
    const umzug = new Umzug({
      migrations: MIGRATIONS.map(({ name, sql, then }) => ({
        name,
        up: () =>
          sequelize.transaction(async (own) => {
            await sequelize.query(sql, { transaction: own });
            await then?.(database, own, outputs);
          }),
      })),
      storage: new SequelizeStorage({ sequelize }),
      logger: undefined,
    });
    await umzug.up();
  });
  await runMigrations({ connectionString: databaseUrl });
}
