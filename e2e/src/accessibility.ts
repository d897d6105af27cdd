import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { setTimeout as wait } from 'node:timers/promises';
import type { Browser } from './browser';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** WCAG 2.2, levels A and AA, as axe-core names the criteria that it can check; and what it counts as good practice on every page. */
const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'];

/** For how many seconds something must stay wrong to count: a busy machine draws a list that opens in steps that long. */
const LASTING = 5;

/**
 * What axe-core, a checker from outside the project, finds wrong on the page and stays wrong: a line for each place. A list that opens is
 * drawn in several steps, and between two of them its options may not be there yet. Lists that open over the page are in no landmark, and
 * belong to the field that has opened them: that keeps the focus, and its arrow keys scroll them (ARIA Authoring Practices, combobox).
 */
export async function violations(browser: Browser): Promise<string[]> {
  let found = await violationsNow(browser);
  for (let second = 0; found.length > 0 && second < LASTING; second++) {
    await wait(1000);
    found = await violationsNow(browser);
  }
  return found;
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
       .then((lines) => done(lines.filter((line) => !/^region.*cdk-overlay-container|^scrollable-region-focusable.*<cdk-virtual-scroll-viewport/s.test(line))));`,
  );
}
