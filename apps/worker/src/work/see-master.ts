import { MasterFacts, NOTHING_SALIENT, type Salience } from '@rundle/core';
import { type Claim, contentOf, finishClaim, type JobOf, type MasterRow, notify } from '@rundle/store';
import type { Transaction } from 'sequelize';
import { type Context, inDatabase } from '../context';

/** Measures what draws the eye in a master, so that plans propose where it is cropped to a ratio. */
export async function seeMaster(context: Context, claim: Claim, { masterId }: JobOf<'see-master'>): Promise<void> {
  const { sequelize, masters } = context.database;
  const master = await inDatabase(context, () => masters.findByPk(masterId));
  const facts = master?.state === 'ready' && master.facts ? MasterFacts.parse(master.facts) : null;
  const salience = master && facts && !facts.salience ? await salienceOf(context, master, facts) : null;
  await inDatabase(context, () =>
    sequelize.transaction(async (transaction) => {
      if ((await finishClaim(sequelize, claim, transaction)) && salience && master)
        await keepSalience(context.database, master, salience, transaction);
    }),
  );
}

/** Writes down what draws the eye in a master, unless it is another picture by now. */
export async function keepSalience(
  { sequelize, masters }: Context['database'],
  master: MasterRow,
  salience: Salience,
  transaction: Transaction,
): Promise<void> {
  const row = await masters.findByPk(master.id, { transaction, lock: true });
  // Read anew meanwhile, it is looked at anew, too.
  if (!row?.facts || contentOf(row) !== contentOf(master)) return;
  await row.update({ facts: { ...row.facts, salience } }, { transaction });
  await notify(sequelize, { about: 'masters', setId: row.setId, ids: [row.id] }, transaction);
}

/** Null where the file is away: it is looked at when it is back. */
async function salienceOf({ files, pool }: Context, master: MasterRow, facts: MasterFacts): Promise<Salience | null> {
  const brought = await files.masters.bring(master).catch(nullForProblem);
  if (!brought) return null;
  // What cannot be decoded draws no eye; what was only interrupted is measured again.
  return (await pool.salience(brought.path, facts).catch(nullForProblem).finally(brought.close)) ?? NOTHING_SALIENT;
}

/** A problem of the file is no error of the work. */
export function nullForProblem(error: unknown): null {
  if (error instanceof Error && 'problem' in error) return null;
  throw error;
}
