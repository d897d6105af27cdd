// @ts-check
/*
 * What each program may hold, in MB: its heap ends it, and supervisor or server see to the rest. docs/reliability.md tells the same, which a test
 * holds.
 */

/** Heap of each program's script; pixels lie outside it. */
export const HEAP_MB = { server: 1024, worker: 768, 'stand-ins': 256 };

/** A worker that holds more than this while it rests ends, and another takes its place; between two pictures it may hold the second. */
export const WORKER_MB = { resting: 500, between: 1500 };
