import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Browser, Builder, By, until } from "selenium-webdriver";
import chrome from "selenium-webdriver/chrome.js";

/** So long it is waited for that an element stands still. */
const stillMs = 5000;
const mostPresses = 5;
/** What comes is waited for so long: two servers and two browsers share two cores. */
const waitMs = 20_000;

/** Opens Debian's Chromium, headless, with a profile of its own. `close` ends it and removes the profile. */
export async function openBrowser({ width = 1280, height = 800, insecure = false } = {}) {
  const profile = mkdtempSync(join(tmpdir(), "nubrel-browser-"));
  const options = new chrome.Options().setChromeBinaryPath("/usr/bin/chromium");
  options.addArguments(
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
    "--force-device-scale-factor=1",
    "--hide-scrollbars",
    `--user-data-dir=${profile}`,
  );
  if (insecure) options.addArguments("--ignore-certificate-errors");
  options.setLoggingPrefs({ browser: "ALL" });
  const driver = await new Builder()
    .forBrowser(Browser.CHROME)
    .setChromeOptions(options)
    .setChromeService(new chrome.ServiceBuilder("/usr/bin/chromedriver"))
    .build();
  await setViewport(driver, width, height);
  return {
    driver,
    close: async () => {
      await driver.quit();
      rmSync(profile, { recursive: true, force: true, maxRetries: 5, retryDelay: 200 });
    },
  };
}

/** Makes the page itself, not the window, this large. */
export function setViewport(driver, width, height) {
  return driver.sendDevToolsCommand("Emulation.setDeviceMetricsOverride", {
    width,
    height,
    deviceScaleFactor: 1,
    mobile: false,
  });
}

/** The element with this text, once it is there. */
export function byText(driver, tag, text, timeoutMs = waitMs) {
  return driver.wait(
    until.elementLocated(By.xpath(`//${tag}[contains(normalize-space(.), ${JSON.stringify(text)})]`)),
    timeoutMs,
    `no <${tag}> with the text ${JSON.stringify(text)}`,
  );
}

export function byCss(driver, css, timeoutMs = waitMs) {
  return driver.wait(until.elementLocated(By.css(css)), timeoutMs, `nothing matches ${css}`);
}

/** Waits until `probe` gives something truthy, and returns it. */
export function eventually(driver, probe, timeoutMs, message) {
  return driver.wait(
    async () => {
      try {
        return await probe();
      } catch (error) {
        if (error.name === "StaleElementReferenceError" || error.name === "NoSuchElementError") return undefined;
        throw error;
      }
    },
    timeoutMs,
    message,
  );
}

/** Fills the field with this label, replacing what stands there. */
export async function fill(driver, label, text) {
  const field = await driver.wait(
    until.elementLocated(By.xpath(`//input[@id=//label[contains(normalize-space(.), ${JSON.stringify(label)})]/@for]`)),
    waitMs,
    `no field ${label}`,
  );
  await field.clear();
  await field.sendKeys(text);
}

/**
 * Clicks an element after bringing it to the middle, clear of what is pinned above and below, once it stands still there
 * and nothing is over it: a page that still reads grows, and a person waits for that as well. Where it has moved between
 * the look and the click, so that something else would have been hit, it looks again, as a person does.
 */
export async function press(driver, element) {
  const found = await element;
  for (let left = mostPresses; ; left--) {
    await bringToMiddle(driver, found);
    try {
      return await found.click();
    } catch (error) {
      if (error.name !== "ElementClickInterceptedError" || left <= 1) throw error;
    }
  }
}

/** Brings an element to the middle of the page, until it stands still there and nothing is over it, or for a while. */
async function bringToMiddle(driver, found) {
  await driver.executeAsyncScript(
    `const [element, done] = arguments; const until = performance.now() + ${stillMs}; let last = "";
     const look = () => {
       element.scrollIntoView({ block: "center" });
       const { x, y, width, height } = element.getBoundingClientRect();
       const over = document.elementFromPoint(x + width / 2, y + height / 2);
       const now = [x, y, width, height].join(" ");
       const isClear = over !== null && (element.contains(over) || over.contains(element));
       if ((now === last && isClear) || performance.now() > until || !element.isConnected) return done();
       last = now;
       requestAnimationFrame(() => requestAnimationFrame(look));
     };
     look();`,
    found,
  );
}

/** The page as the browser prints it, a PDF in base64. */
export async function printedPdf(driver) {
  return (await driver.sendAndGetDevToolsCommand("Page.printToPDF", { preferCSSPageSize: true })).data;
}

/**
 * Chooses one of a word's values in a sentence.
 * @param {import("selenium-webdriver").WebDriver} driver
 * @param {string} label
 * @param {string} value
 */
export async function choose(driver, label, value) {
  const select = await byCss(driver, `select[aria-label="${label}"]`);
  await driver.executeScript("arguments[0].scrollIntoView({ block: 'center' })", select);
  await (await select.findElement(By.css(`option[value="${value}"]`))).click();
}

/**
 * Whether the page is wider than the screen.
 * @param {import("selenium-webdriver").WebDriver} driver
 * @returns {Promise<boolean>}
 */
export function isWide(driver) {
  return driver.executeScript("return document.documentElement.scrollWidth > document.documentElement.clientWidth + 1");
}

/**
 * Chooses what stands under the page's own "more …".
 * @param {import("selenium-webdriver").WebDriver} driver
 * @param {string} words
 */
export async function chooseMore(driver, words) {
  await press(driver, byCss(driver, '[data-page-head] [aria-label^="more about"]'));
  await press(driver, byText(driver, "*[@role='menuitem']", words));
}
