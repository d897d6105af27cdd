import { isAvifWeighed, MasterFacts, problemOf, type Weighing } from '@rundle/core';
import type { HowWeighed } from '@rundle/render';
import { type Claim, contentOf, finishClaim, type JobOf, type MasterRow, notify } from '@rundle/store';
import { type Context, inDatabase } from '../context';

/**
 * Weighs the small picture of a master, or the master at its larger sizes, too, so that plans expect its weights more exactly. What cannot be weighed
 * keeps what is known of it.
 */
export async function weighMaster(context: Context, claim: Claim, { masterId, small, withAvif }: JobOf<'weigh-master'>): Promise<void> {
  const { sequelize, masters } = context.database;
  const master = await inDatabase(context, () => masters.findByPk(masterId));
  const facts = master?.state === 'ready' && master.facts ? MasterFacts.parse(master.facts) : null;
  const isOpen = (known: MasterFacts) =>
    small ? known.weighings.length === 0 : !known.finelyWeighed || (withAvif && !isAvifWeighed(known));
  const how = { small: facts?.weighings.length === 0, fine: !small, withAvif };
  const weighings = master && facts && isOpen(facts) ? await weigh(context, master, facts, how) : null;
  await inDatabase(context, () =>
    sequelize.transaction(async (transaction) => {
      if (!(await finishClaim(sequelize, claim, transaction)) || !weighings) return;
      const row = await masters.findByPk(masterId, { transaction, lock: true });
      // Read anew meanwhile, it is weighed anew, too.
      if (!row?.facts || !master || contentOf(row) !== contentOf(master)) return;
      // Two may have weighed it at a time: the one that knows more stays.
      const before = MasterFacts.parse(row.facts);
      if (!isOpen(before)) return;
      await row.update({ facts: { ...row.facts, weighings, finelyWeighed: !small || before.finelyWeighed } }, { transaction });
      await notify(sequelize, { about: 'weighed', setId: row.setId, ids: [row.id] }, transaction);
    }),
  );
}

async function weigh({ files, pool, log }: Context, master: MasterRow, facts: MasterFacts, how: HowWeighed): Promise<Weighing[]> {
  try {
    const { path, close } = await files.masters.bring(master);
    return await pool.weigh(path, facts, how).finally(close);
  } catch (error) {
    log.debug({ master: master.id, problem: problemOf(error).code }, 'not weighed');
    return facts.weighings;
  }
}
