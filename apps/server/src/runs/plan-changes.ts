import { randomUUID } from 'node:crypto';
import { type OutputOf, outputKey, type PlannedOutput } from '@rundle/core';

/** A plan that was told, cell by cell. */
interface Told {
  id: string;
  cells: ReadonlyMap<string, PlannedOutput>;
}

/** The last plans of a few sets: whoever has one of them is told the changes only. */
const told = new Map<string, Told[]>();
const SETS = 20;
/** Several pages may look at a set, each with a plan of its own. */
const PLANS = 3;

export interface PlanChanges {
  id: string;
  since: string | null;
  /** The cells that are new or have changed. */
  outputs: PlannedOutput[];
  gone: OutputOf[];
}

const ofOutput = ({ masterId, presetId, part }: OutputOf): OutputOf => ({ masterId, presetId, part });

/** Remembers a plan, and says what of it is new to whoever has an earlier one. @param since the id of that; none, or not known any more: all is */
export function changesSince(setId: string, outputs: readonly PlannedOutput[], since: string | undefined): PlanChanges {
  const plans = told.get(setId) ?? [];
  const before = plans.find(({ id }) => id === since);
  const cells = new Map(outputs.map((output) => [outputKey(output), output]));
  const id = randomUUID();
  told.delete(setId);
  told.set(setId, [{ id, cells }, ...plans].slice(0, PLANS));
  for (const oldest of told.keys()) if (told.size > SETS) told.delete(oldest);
  if (!before) return { id, since: null, outputs: [...outputs], gone: [] };
  return {
    id,
    since: before.id,
    outputs: [...cells].flatMap(([key, output]) => (isSame(before.cells.get(key), output) ? [] : [output])),
    gone: [...before.cells].flatMap(([key, output]) => (cells.has(key) ? [] : [ofOutput(output)])),
  };
}

/** Whether a cell says what it said: field by field, since nearly all are numbers and words, and to write thousands as JSON takes longer than to plan them. */
function isSame(one: PlannedOutput | undefined, other: PlannedOutput): boolean {
  if (!one) return false;
  const [before, now] = [one as Record<string, unknown>, other as Record<string, unknown>];
  for (const key in now) if (!isSameValue(before[key], now[key])) return false;
  for (const key in before) if (before[key] !== undefined && now[key] === undefined) return false;
  return true;
}

const isSameValue = (one: unknown, other: unknown): boolean => {
  if (one === other) return true;
  if (typeof one !== 'object' || typeof other !== 'object') return false;
  return (isEmpty(one) && isEmpty(other)) || JSON.stringify(one) === JSON.stringify(other);
};

const isEmpty = (value: unknown): boolean => Array.isArray(value) && value.length === 0;
