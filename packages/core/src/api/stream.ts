/* How often the event stream is heard: apart from the schemas of what it says, which take longer to be loaded than the stream to open. */

/** How often a stream tells that the server is there, ms. */
export const BEAT_MS = 3000;
/** After so long without a word the server counts as silent, ms. */
export const SILENT_MS = 10_000;
