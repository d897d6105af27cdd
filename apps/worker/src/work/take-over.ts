import { type Claim, type OutputRow } from '@rundle/store';
import type { Context } from '../context';
import { AttemptWriter } from './attempt-writer';

/**
 * Goes on where an earlier attempt was cut off. First what it left unfinished is taken away, so that it cannot be put in place any more;
 * then every output whose file stands where it belongs, with the content that was written down for it, is done.
 * @returns what is still to be made
 */
export async function settleFound(context: Context, { attempt }: Claim, rows: readonly OutputRow[]): Promise<OutputRow[]> {
  const { files, database } = context;
  await files.outputs.dropOlder(
    rows.map(({ id, target }) => ({ id, target })),
    attempt,
  );
  const open: OutputRow[] = [];
  for (const row of rows) {
    const content = row.content ?? null;
    const found = content !== null && (await files.outputs.holds(row, content));
    const run = found ? await database.runs.findByPk(row.runId) : null;
    if (run) await new AttemptWriter(context, run.setId, attempt).done(row.id, null);
    else open.push(row);
  }
  return open;
}
