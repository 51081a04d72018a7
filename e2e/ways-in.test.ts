import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { type OidcIssuer, startOidcIssuer } from "../server/testing/oidc-issuer.ts";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { axeFindings } from "./support/axe.mjs";
import { byCss, byText, eventually, fill, openBrowser, press } from "./support/browser.mjs";
import { makeOwner, owner } from "./support/first-owner.mjs";
import { addPasskeyDevice } from "./support/passkey-device.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// Ways in besides a password, in Chromium with a device of its own kind that keeps passkeys (WebAuthn level 3, §11).
// Each test goes on where the one before ended.
let db: TestDatabase;
let folder: string;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let address: string;
let issuer: OidcIssuer;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let driver: WebDriver;

const open = (path: string) => driver.get(address + path);
const isGone = (css: string) =>
  eventually(driver, async () => (await driver.findElements(By.css(css))).length === 0, 10_000, `${css} is there`);

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  folder = mkdtempSync(join(tmpdir(), "nubrel-ways-in-"));
  server = await startServerProcess(db.url, {
    env: { NUBREL_KEY_FILE: join(folder, "secrets.key"), NUBREL_MACHINE: "playout", NUBREL_GATHER_MS: "5000" },
  });
  // A passkey is for a name, and a page of this machine counts as secure.
  address = server.address.replace("127.0.0.1", "localhost");
  issuer = await startOidcIssuer([`${address}/api/session/issuer/back`]);
  browser = await openBrowser();
  driver = browser.driver;
  await addPasskeyDevice(driver);
  await makeOwner(driver, { ...server, address });
}, 60_000);
afterAll(async () => {
  await browser?.close();
  await issuer?.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
  await db?.drop();
});

describe("a passkey", () => {
  test("is added by its name with keys alone, and listed", async () => {
    await open("/account");
    await fill(driver, "Its name", "phone");
    await (await byText(driver, "button", "Add a passkey")).sendKeys(Key.ENTER);
    expect(await (await byCss(driver, '[data-passkey="phone"]')).getText()).toContain("opens localhost");
    expect(await axeFindings(driver)).toEqual([]);
  });

  test("that the device has already is not made twice", async () => {
    await fill(driver, "Its name", "the same");
    await press(driver, byText(driver, "button", "Add a passkey"));
    await byText(driver, "p", "This device has one for you here already");
  });

  test("signs in without name, password or code", async () => {
    await press(driver, byText(driver, "button", owner.name));
    await press(driver, byText(driver, "button", "Sign out"));
    await byText(driver, "h1", "Sign in to Nubrel");
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, byText(driver, "button", "Sign in with a passkey"));
    await byText(driver, "h1", owner.name);
  });

  test("shows again who one is, also where there is no password any more", async () => {
    await open("/account");
    await press(driver, byText(driver, "button", "sign in by passkeys alone"));
    await byText(driver, "p", "You have none, and sign in by passkeys");
    await db.database.query("update session set proven_at = now() - interval '11 minutes'");
    await press(driver, byCss(driver, '[data-passkey="phone"] button'));
    await byText(driver, "h2", `Is it still you, ${owner.name}?`);
    await isGone('dialog[open] input[type="password"]');
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, byText(driver, "button", "Show a passkey"));
    await byText(driver, "p", "Without it you could not sign in any more");
    await fill(driver, "A password", "heron over the lock");
    await press(driver, byText(driver, "button", "Set it"));
    await byText(driver, "button", "Change it");
    await press(driver, byCss(driver, '[data-passkey="phone"] button'));
    await isGone('[data-passkey="phone"]');
  });

  test("that is kept no longer opens nothing, and says so", async () => {
    await press(driver, byText(driver, "button", owner.name));
    await press(driver, byText(driver, "button", "Sign out"));
    await press(driver, byText(driver, "button", "Sign in with a passkey"));
    await byText(driver, "p", "Nobody here has this passkey");
  });

  test("is not offered where the server is reached by an address", async () => {
    await driver.get(server.address);
    await byText(driver, "h1", "Sign in to Nubrel");
    await isGone("main .act-plain");
    await fill(driver, "Name", owner.name);
    await fill(driver, "Password", "heron over the lock");
    await press(driver, byText(driver, "button", "Sign in"));
    await byText(driver, "h1", "Fleet");
    await driver.get(`${server.address}/account`);
    await byText(driver, "p", "Passkeys need a name");
  });
});

describe("an issuer of one's own", () => {
  test("is named by an owner, and said what makes a keeper", async () => {
    await open("/");
    await fill(driver, "Name", owner.name);
    await fill(driver, "Password", "heron over the lock");
    await press(driver, byText(driver, "button", "Sign in"));
    await byText(driver, "h1", "Fleet");
    await open("/people/ways-in");
    await (await byText(driver, "button", "name one")).sendKeys(Key.ENTER);
    expect(await (await byCss(driver, "figure pre")).getText()).toBe(`${address}/api/session/issuer/back`);
    await fill(driver, "What people call it", "the harbour");
    await fill(driver, "Its address", "http://localhost:1");
    await fill(driver, "What it calls this server", issuer.clientId);
    await fill(driver, "The secret between both", issuer.secret);
    await fill(driver, "Values that make a keeper", "crane drivers, pilots");
    expect(await axeFindings(driver)).toEqual([]);
    await press(driver, byText(driver, "button", "Ask it and keep it"));
    await byText(driver, "p", "did not answer as an issuer");
    await fill(driver, "Its address", issuer.url);
    await (await byText(driver, "button", "Ask it and keep it")).sendKeys(Key.ENTER);
    await byText(driver, "p", "crane drivers or pilots makes a keeper, everybody else stays out");
    expect(await axeFindings(driver)).toEqual([]);
  });

  test("lets in whom it vouches for, where they wanted to be, and tells the others why not", async () => {
    issuer.claims.set("4711", { preferred_username: "Bo", groups: ["pilots"] });
    await press(driver, byText(driver, "button", owner.name));
    await press(driver, byText(driver, "button", "Sign out"));
    await byText(driver, "h1", "Sign in to Nubrel");
    await open("/alerts");
    await press(driver, byText(driver, "button", "Sign in by the harbour"));
    await atIssuer("4712");
    await byText(driver, "p", "nothing that it says of you lets you in here");
    expect(await axeFindings(driver)).toEqual([]);
    await driver.get(issuer.url);
    await driver.manage().deleteAllCookies();
    await open("/alerts");
    await press(driver, byText(driver, "button", "Sign in by the harbour"));
    await atIssuer("4711");
    await byText(driver, "h1", "Alerts");
    expect(new URL(await driver.getCurrentUrl()).pathname).toBe("/alerts");
    await byText(driver, "button", "Bo");
  });
});

/** Goes through the pages of the issuer: who one is, and that this server may know it. */
async function atIssuer(login: string): Promise<void> {
  await (await byCss(driver, 'input[name="login"]')).sendKeys(login);
  await (await byCss(driver, 'input[name="password"]')).sendKeys("any");
  await press(driver, byCss(driver, 'button[type="submit"]'));
  await press(driver, byText(driver, "button", "Continue"));
}
