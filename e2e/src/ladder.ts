import { By, Key, type WebElement } from 'selenium-webdriver';
import type { Browser } from './browser';

/** The sentences of a preset on its bench, whose values are pressed, and then typed or chosen. */
export class Ladder {
  constructor(private readonly browser: () => Browser) {}

  value(field: string): Promise<WebElement> {
    return this.browser().find(By.xpath(`//rd-value/button[starts-with(@aria-label, '${field}:')]`));
  }

  async says(field: string, words: string): Promise<void> {
    const reads = async () => (await (await this.value(field)).getText()).includes(words);
    await this.browser().until(reads, `${field} never became ${words}`, 60_000);
  }

  /** Goes to a rung of the ladder. */
  async rung(name: string): Promise<void> {
    await (await this.browser().find(By.xpath(`//button[@class='rung'][normalize-space()='${name}']`))).click();
  }

  /** Presses a value, types another, and waits until it reads so. */
  async set(field: string, typed: string, reads = typed): Promise<void> {
    await (await this.value(field)).click();
    await this.browser().type(typed, Key.ENTER);
    await this.says(field, reads);
  }

  /** Presses a value and chooses one of its list. */
  async choose(field: string, words: string): Promise<void> {
    await (await this.value(field)).click();
    const option = By.xpath(`//nz-option-item[contains(normalize-space(.), ${JSON.stringify(words)})]`);
    await (await this.browser().find(option)).click();
  }

  /** Gives the preset a name. */
  async title(title: string): Promise<void> {
    const field = await this.browser().find('#preset-title');
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), title, Key.TAB);
  }
}
