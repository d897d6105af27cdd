import type { ChildBounds } from './bounded-child';

/*
 * What the programs that server and workers start may hold, in MB; docs/reliability.md has the table. Those that the supervisor starts stand in
 * scripts/setup/bounds.mjs.
 */

/** Carries deliveries out: its heap, for the page and the manifest of a large one. */
export const COURIER_HEAP_MB = 512;

/** Makes and restores backups: its heap, for the list of their files. */
export const KEEPER_HEAP_MB = 512;

/** Plans and vets whole sets: its heap, for 5,000 pictures by a dozen presets. */
export const SET_THREAD_HEAP_MB = 1024;

/** Make samples: their heap, pixels lie outside it; and what each may hold while it rests. One that holds more is renewed. */
export const SAMPLE_HEAP_MB = 512;
export const SAMPLE_RESTING_MB = { look: 700, finish: 600 };

/** Tries a receiver: it reads words only. */
export const TRIAL_BOUNDS: ChildBounds = { ms: 90_000, cpuMs: 20_000, heapMB: 128, residentMB: 300 };

/** Draws a logo once; one of a studio takes some hundredths of a second. */
export const MARK_BOUNDS: ChildBounds = { ms: 60_000, cpuMs: 4000, heapMB: 256, residentMB: 700 };
