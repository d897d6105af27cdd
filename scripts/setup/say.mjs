// @ts-check

/** Tells how far the set-up is. @param {string} line */
export const say = (line) => void process.stdout.write(`${line}\n`);

/**
 * Ends the program with a sentence that says what is wrong and what to do.
 * @param {string} sentence
 * @returns {never}
 */
export function stop(sentence) {
  process.stderr.write(`\n${sentence}\n`);
  process.exit(1);
}
