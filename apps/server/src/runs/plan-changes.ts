import { randomUUID } from 'node:crypto';
import { type OutputOf, outputKey, type PlannedOutput } from '@rundle/core';

/** A plan that was told, cell by cell, as JSON. */
interface Told {
  id: string;
  cells: ReadonlyMap<string, { of: OutputOf; json: string }>;
}

/** The last plans of a few sets: whoever has one of them is told the changes only. */
const told = new Map<string, Told[]>();
const SETS = 20;
/** Several pages may look at a set, each with a plan of its own. */
const PLANS = 3;

export interface PlanChanges {
  id: string;
  since: string | null;
  /** JSON of the cells that are new or have changed. */
  outputs: string[];
  gone: OutputOf[];
}

const ofOutput = ({ masterId, presetId, part }: OutputOf): OutputOf => ({ masterId, presetId, part });

/** Remembers a plan, and says what of it is new to whoever has an earlier one. @param since the id of that; none, or not known any more: all is */
export function changesSince(setId: string, outputs: readonly PlannedOutput[], since: string | undefined): PlanChanges {
  const plans = told.get(setId) ?? [];
  const before = plans.find(({ id }) => id === since);
  const cells = new Map(outputs.map((output) => [outputKey(output), { of: ofOutput(output), json: JSON.stringify(output) }]));
  const id = randomUUID();
  told.delete(setId);
  told.set(setId, [{ id, cells }, ...plans].slice(0, PLANS));
  for (const oldest of told.keys()) if (told.size > SETS) told.delete(oldest);
  if (!before) return { id, since: null, outputs: [...cells.values()].map(({ json }) => json), gone: [] };
  return {
    id,
    since: before.id,
    outputs: [...cells].flatMap(([key, { json }]) => (before.cells.get(key)?.json === json ? [] : [json])),
    gone: [...before.cells].flatMap(([key, { of }]) => (cells.has(key) ? [] : [of])),
  };
}
