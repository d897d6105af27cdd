import { mkdtempSync, rmSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Builder, By, error as webDriverError, type Locator, type WebDriver, type WebElement } from 'selenium-webdriver';
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome';
import { becomesSo } from './patience';

const FLAGS = [
  '--headless=new',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--hide-scrollbars',
];

/** How long a page may take to do what it was asked, ms: other tests keep the machine busy beside it, and a test fails by what it sees. */
const PATIENCE = 45_000;

/** Headless Chromium with a viewport of exactly the size asked for. */
export class Browser {
  private constructor(
    readonly driver: WebDriver,
    private readonly profile: string,
    readonly downloads: string,
  ) {}

  static async open(width = 1280, height = 800): Promise<Browser> {
    process.env['SE_OFFLINE'] = 'true';
    process.env['SE_AVOID_STATS'] = 'true';
    const profile = mkdtempSync(join(tmpdir(), 'rundle-browser-'));
    const downloads = join(profile, 'downloads');
    const options = new Options();
    options.setChromeBinaryPath('/usr/bin/chromium');
    options.addArguments(...FLAGS, `--user-data-dir=${profile}`);
    options.setUserPreferences({ 'download.default_directory': downloads, 'download.prompt_for_download': false });
    const driver = await new Builder()
      .forBrowser('chrome')
      .setChromeOptions(options)
      .setChromeService(new ServiceBuilder('/usr/bin/chromedriver'))
      .build();
    const browser = new Browser(driver, profile, downloads);
    await browser.resize(width, height);
    return browser;
  }

  /** The window's size says too little: the viewport itself is set. */
  async resize(width: number, height: number, deviceScaleFactor = 1): Promise<void> {
    await this.devTools('Emulation.setDeviceMetricsOverride', { width, height, deviceScaleFactor, mobile: false });
  }

  /** Whether pages may run their scripts. */
  async scripts(on: boolean): Promise<void> {
    await this.devTools('Emulation.setScriptExecutionDisabled', { value: !on });
  }

  /** Drops files or whole folders of this machine on the middle of the page. */
  async dropFiles(...files: string[]): Promise<void> {
    const data = { items: [], files, dragOperationsMask: 1 };
    for (const type of ['dragEnter', 'dragOver', 'drop']) await this.devTools('Input.dispatchDragEvent', { type, x: 640, y: 500, data });
  }

  private async devTools(command: string, params: object): Promise<void> {
    const driver = this.driver as WebDriver & { sendDevToolsCommand(name: string, params: object): Promise<void> };
    await driver.sendDevToolsCommand(command, params);
  }

  async find(what: string | Locator, within = PATIENCE): Promise<WebElement> {
    const locator = typeof what === 'string' ? By.css(what) : what;
    let found: WebElement | undefined;
    const isThere = async () => {
      [found] = await this.driver.findElements(locator);
      return found !== undefined;
    };
    await this.until(isThere, `not found: ${JSON.stringify(what)}`, within);
    return found!;
  }

  all(css: string): Promise<WebElement[]> {
    return this.driver.findElements(By.css(css));
  }

  /** A button, link or label by what it says. */
  saying(words: string): Promise<WebElement> {
    return this.find(By.xpath(`//*[self::button or self::a or self::label][contains(normalize-space(.), ${JSON.stringify(words)})]`));
  }

  async click(words: string): Promise<void> {
    for (let left = 20; ; left--)
      try {
        const found = await this.saying(words);
        // What cannot be pressed yet will be: a page lets nothing be done with what it is still waiting for.
        await this.until(() => found.isEnabled(), `cannot be pressed: ${words}`);
        return await found.click();
      } catch (error) {
        // The page has drawn it anew between the two, or has not drawn it yet: it was not clicked.
        const isEarly =
          error instanceof webDriverError.StaleElementReferenceError || error instanceof webDriverError.ElementNotInteractableError;
        if (!isEarly || left === 0) throw error;
        await this.driver.sleep(250);
      }
  }

  /** Presses keys one after another, wherever the focus is. */
  async press(...keys: string[]): Promise<void> {
    await this.driver
      .actions()
      .sendKeys(...keys)
      .perform();
  }

  /** Types into the field that what was done before opens, once it has the focus. */
  async type(...keys: string[]): Promise<void> {
    const focused = () => this.driver.executeScript<string>('return document.activeElement.tagName');
    await this.until(async () => (await focused()) === 'INPUT', 'no field got the focus');
    for (const key of keys) await this.press(key);
  }

  /** Presses a key while others are held. */
  async chord(held: string | string[], key: string): Promise<void> {
    const actions = this.driver.actions();
    for (const one of [held].flat()) actions.keyDown(one);
    actions.sendKeys(key);
    for (const one of [held].flat()) actions.keyUp(one);
    await actions.perform();
  }

  /** Names on the contact sheet, in its order, once it has been drawn. */
  async names(): Promise<string[]> {
    await this.find('rd-master-card');
    return this.driver.executeScript("return [...document.querySelectorAll('rd-master-card .name')].map((name) => name.textContent)");
  }

  /** @param failing what to say when it does not become so in time */
  async until(is: () => Promise<boolean>, failing: string, within = PATIENCE): Promise<void> {
    if (!(await becomesSo(is, within))) throw new Error(`${failing}; the page says:\n${await this.text()}`);
  }

  /** What the page says. The driver's own way of reading text looks at every element, which takes a busy machine a second. */
  async text(): Promise<string> {
    const text = await this.driver.executeScript<string>("return document.body?.innerText ?? ''");
    return text.replace(/[ \t\u00a0]+/g, ' ').replace(/ ?\n[ \n]*/g, '\n');
  }

  /** Waits until the page says something. */
  async says(words: string | RegExp, within = PATIENCE): Promise<void> {
    const there = async () => {
      const text = await this.text().catch(() => '');
      return typeof words === 'string' ? text.includes(words) : words.test(text);
    };
    await this.until(there, `the page never said ${String(words)}`, within);
  }

  async picture(path: string): Promise<void> {
    await writeFile(path, Buffer.from(await this.driver.takeScreenshot(), 'base64'));
  }

  /** What the page wrote to its console as errors. */
  async consoleErrors(): Promise<string[]> {
    const entries = await this.driver.manage().logs().get('browser');
    return entries.filter(({ level }) => level.name === 'SEVERE').map(({ message }) => message);
  }

  async close(): Promise<void> {
    await this.driver.quit().catch(() => {});
    rmSync(this.profile, { recursive: true, force: true });
  }
}
