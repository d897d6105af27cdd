import * as z from 'zod';
import { type DecisionName, type Decisions, NO_DECISIONS, Overrides } from './decisions';

const { assumeSrgb, fillRights, dropPlace, focus } = Overrides.shape;

/** Decisions that are made or taken back. Each one that is not named stays as it is. */
export const OverridesChange = z.strictObject({
  // Without their defaults: what is not said does not change.
  assumeSrgb: assumeSrgb.unwrap().optional(),
  fillRights: fillRights.unwrap().optional(),
  dropPlace: dropPlace.unwrap().optional(),
  focus: focus.unwrap().optional(),
  without: z
    .union([z.array(z.uuid()).max(100), z.record(z.uuid(), z.boolean())])
    .optional()
    .meta({ description: 'Presets that make nothing of it: all of them as a list; or some, each true or false, and the others stay' }),
});
export type DecisionsChange = z.infer<typeof OverridesChange>;

/** Everything that is decided about a picture after a change. */
export function decidedAfter(decisions: Decisions, { without, ...change }: DecisionsChange): Decisions {
  const said = Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined));
  return { ...decisions, ...said, without: without === undefined ? decisions.without : withoutAfter(decisions.without, without) };
}

function withoutAfter(before: readonly string[], change: NonNullable<DecisionsChange['without']>): string[] {
  if (Array.isArray(change)) return [...new Set(change)];
  const left = before.filter((id) => change[id] !== false);
  const added = Object.entries(change).flatMap(([id, on]) => (on && !left.includes(id) ? [id] : []));
  return [...left, ...added];
}

/** The change that takes another one back, and nothing that was decided meanwhile. @param decisions as they were before it */
export function undoOf(decisions: Decisions, { without, ...change }: DecisionsChange): DecisionsChange {
  const named = (Object.keys(change) as Exclude<DecisionName, 'without'>[]).filter((name) => change[name] !== undefined);
  const before = Object.fromEntries(named.map((name) => [name, decisions[name]])) as DecisionsChange;
  if (without === undefined) return before;
  if (Array.isArray(without)) return { ...before, without: decisions.without };
  return { ...before, without: Object.fromEntries(Object.keys(without).map((id) => [id, decisions.without.includes(id)])) };
}

/** As they are kept: what was not decided is not said. */
export const saidOf = (decisions: Decisions): Partial<Decisions> =>
  Object.fromEntries(
    (Object.keys(decisions) as DecisionName[])
      .filter((name) => JSON.stringify(decisions[name]) !== JSON.stringify(NO_DECISIONS[name]))
      .map((name) => [name, decisions[name]]),
  );
