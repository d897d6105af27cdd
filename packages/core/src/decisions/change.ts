import * as z from 'zod';
import { Placement, RatioName } from '../size/crop';
import { type DecisionName, type Decisions, NO_DECISIONS, Overrides } from './decisions';

const { assumeSrgb, fillRights, dropPlace, focus, crop, tone, page } = Overrides.shape;

/** Decisions that are made or taken back. Each one that is not named stays as it is. */
export const OverridesChange = z.strictObject({
  // Without their defaults: what is not said does not change.
  assumeSrgb: assumeSrgb.unwrap().optional(),
  fillRights: fillRights.unwrap().optional(),
  dropPlace: dropPlace.unwrap().optional(),
  focus: focus.unwrap().optional(),
  crop: crop.unwrap().optional(),
  tone: tone.unwrap().optional(),
  page: page.unwrap().optional(),
  ratios: z
    .record(RatioName, Placement.nullable())
    .optional()
    .meta({ description: 'Where it is cut to a ratio; null takes a placement back, and ratios that are not named stay' }),
  without: z
    .union([z.array(z.uuid()).max(100), z.record(z.uuid(), z.boolean())])
    .optional()
    .meta({ description: 'Presets that make nothing of it: all of them as a list; or some, each true or false, and the others stay' }),
});
export type DecisionsChange = z.infer<typeof OverridesChange>;

/** Everything that is decided about a picture after a change. */
export function decidedAfter(decisions: Decisions, { without, ratios, ...change }: DecisionsChange): Decisions {
  const said = Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined));
  return {
    ...decisions,
    ...said,
    without: without === undefined ? decisions.without : withoutAfter(decisions.without, without),
    ratios: ratios === undefined ? decisions.ratios : ratiosAfter(decisions.ratios, ratios),
  };
}

/** In the order of their names, so that the same ratios are the same text. */
function ratiosAfter(before: Decisions['ratios'], change: NonNullable<DecisionsChange['ratios']>): Decisions['ratios'] {
  const after = Object.entries({ ...before, ...change }).filter((entry): entry is [string, Placement] => entry[1] !== null);
  return Object.fromEntries(after.sort(([one], [other]) => (one < other ? -1 : 1)));
}

function withoutAfter(before: readonly string[], change: NonNullable<DecisionsChange['without']>): string[] {
  if (Array.isArray(change)) return [...new Set(change)];
  const left = before.filter((id) => change[id] !== false);
  const added = Object.entries(change).flatMap(([id, on]) => (on && !left.includes(id) ? [id] : []));
  return [...left, ...added];
}

/** The change that takes another one back, and nothing that was decided meanwhile. @param decisions as they were before it */
export function undoOf(decisions: Decisions, { without, ratios, ...change }: DecisionsChange): DecisionsChange {
  const named = (Object.keys(change) as (keyof typeof change)[]).filter((name) => change[name] !== undefined);
  const before = Object.fromEntries(named.map((name) => [name, decisions[name]])) as DecisionsChange;
  if (ratios) before.ratios = Object.fromEntries(Object.keys(ratios).map((ratio) => [ratio, decisions.ratios[ratio] ?? null]));
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
