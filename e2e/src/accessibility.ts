import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { setTimeout as wait } from 'node:timers/promises';
import type { Browser } from './browser';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** WCAG 2.2, levels A and AA, as axe-core names the criteria that it can check; and what it counts as good practice on every page. */
const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'];

/**
 * What axe-core, a checker from outside the project, finds wrong on the page and stays wrong for a second: a line for each place. A list
 * that opens is drawn in several steps, and between two of them its options may not be there yet. Lists that open over the page are in no
 * landmark, and belong to the field that has opened them.
 */
export async function violations(browser: Browser): Promise<string[]> {
  const found = await violationsNow(browser);
  if (found.length === 0) return found;
  await wait(1000);
  return violationsNow(browser);
}

/** Colours that are still changing are waited for. */
async function violationsNow(browser: Browser): Promise<string[]> {
  if (!(await browser.driver.executeScript<boolean>('return typeof axe !== "undefined"'))) await browser.driver.executeScript(AXE);
  return browser.driver.executeAsyncScript<string[]>(
    `const done = arguments[arguments.length - 1];
     const ending = document.getAnimations().filter((one) => one.effect?.getComputedTiming().endTime !== Infinity);
     const options = { runOnly: { type: 'tag', values: ${JSON.stringify(RULES)} } };
     const lineOf = ({ id, help }, { target, html }) => id + ': ' + help + '\\n  ' + target.join(' ') + '\\n  ' + html.slice(0, 160);
     Promise.allSettled(ending.map((one) => one.finished))
       .then(() => axe.run(document, options))
       .then(({ violations }) => violations.flatMap((rule) => rule.nodes.map((node) => lineOf(rule, node))))
       .then((lines) => done(lines.filter((line) => !/^region.*cdk-overlay-container/s.test(line))));`,
  );
}
