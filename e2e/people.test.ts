import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { By, Key, type WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { axeFindings } from "./support/axe.mjs";
import {
  byCss,
  byText,
  chooseMore,
  eventually,
  fill,
  isWide,
  openBrowser,
  press,
  setViewport,
} from "./support/browser.mjs";
import { makeOwner, owner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// One browser is the owner's, the other is of those who are invited. Each test goes on where the one before ended.
const password = "heron over the lock";
let db: TestDatabase;
let folder: string;
let server: Awaited<ReturnType<typeof startServerProcess>>;
let browsers: Awaited<ReturnType<typeof openBrowser>>[];
let ines: WebDriver;
let guest: WebDriver;

const quay = {
  ...{ format: "nubrel dashboard", version: 1, title: "Quay" },
  tiles: [
    {
      ...{ id: "memory", title: "Memory", kind: "lines", place: { x: 0, y: 0, width: 12, height: 6 } },
      reading: { sentences: { it: { counter: "system.memory.usage" } } },
    },
  ],
};

const open = (driver: WebDriver, path: string) => driver.get(server.address + path);
const words = async (driver: WebDriver, css: string) =>
  await Promise.all((await driver.findElements(By.css(css))).map((one) => one.getText()));
const sections = (driver: WebDriver) => words(driver, 'nav[aria-label="Sections"] a');

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  folder = mkdtempSync(join(tmpdir(), "nubrel-people-"));
  server = await startServerProcess(db.url, {
    env: { NUBREL_KEY_FILE: join(folder, "secrets.key"), NUBREL_MACHINE: "playout", NUBREL_GATHER_MS: "5000" },
  });
  browsers = [await openBrowser(), await openBrowser()];
  [ines, guest] = browsers.map(({ driver }) => driver) as [WebDriver, WebDriver];
  await makeOwner(ines, server);
}, 60_000);
afterAll(async () => {
  for (const browser of browsers ?? []) await browser.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
  await db?.drop();
});

let link = "";

describe("somebody is invited", () => {
  test("a link is made for a viewer of one machine, by keys alone", async () => {
    await press(ines, byText(ines, "button", owner.name));
    await press(ines, byText(ines, "a", "People"));
    await byText(ines, "p", "Nobody else comes in yet");
    await (await byCss(ines, 'fieldset input[type="checkbox"]')).sendKeys(Key.SPACE);
    await (await byText(ines, "button", "Make the link")).sendKeys(Key.ENTER);
    await byText(ines, "p", "holds to nothing");
    await (await byCss(ines, "fieldset fieldset input")).sendKeys(Key.SPACE);
    await (await byText(ines, "button", "Make the link")).sendKeys(Key.ENTER);
    link = await (await byCss(ines, "figure pre")).getText();
    expect(link).toMatch(/\/invitation\/[\w-]{43}$/);
    expect(await (await byCss(ines, "[data-invitation]")).getText()).toContain("sees playout");
  });

  test("it says what it is for, refuses a poor password in words, and lets in once", async () => {
    await open(guest, new URL(link).pathname);
    await byText(guest, "h1", "Ines invites you");
    await byText(guest, "p", "as a viewer: you look, and change nothing");
    expect(await axeFindings(guest)).toEqual([]);
    await fill(guest, "Name", "Nora");
    await fill(guest, "Password", "password");
    await press(guest, byText(guest, "button", "Come in"));
    await byText(guest, "p", "8 characters");
    await fill(guest, "Password", password);
    await press(guest, byText(guest, "button", "Come in"));
    await byText(guest, "h1", "Fleet");
    await open(guest, new URL(link).pathname);
    await byText(guest, "h1", "This invitation opens nothing");
  });

  test("a viewer who is held to a machine is led nowhere else, and told so where they go by themselves", async () => {
    await open(guest, "/");
    await byText(guest, "h1", "Fleet");
    await eventually(guest, async () => (await sections(guest)).length > 0, 10_000, "no sections");
    expect(await sections(guest)).toEqual(["Fleet", "Counters", "Dashboards", "Alerts"]);
    expect(await words(guest, "[role=alert]")).toEqual([]);
    await open(guest, "/people");
    await byText(guest, "p", "This page is for owners");
    await guest.executeAsyncScript("fetch('/api/people').then(arguments[0])");
    await open(guest, "/alerts");
    await byText(guest, "h1", "Alerts");
    expect((await words(guest, "main")).join()).not.toContain("make a rule");
  });
});

describe("a viewer who is held to nothing", () => {
  // What a page asks for by itself and is refused would stand there as a failure.
  const pages = [
    ...["/", "/machines/playout", "/counters", "/dashboards", "/alerts", "/alerts/quiet", "/recordings", "/planning"],
    ...["/planning/space", "/planning/fit", "/planning/month", "/planning/watching", "/sources", "/sources/1"],
    ...["/sources/transport", "/sources/costs", "/steadiness", "/account"],
  ];
  const refusals = (driver: WebDriver) =>
    driver.executeScript<string[]>(
      "return performance.getEntriesByType('resource').filter((one) => one.responseStatus === 403).map((one) => one.name)",
    );

  test("is asked for nothing that they may not do, on no page", async () => {
    await ines.executeAsyncScript(
      `const done = arguments[0]; fetch('/api/people').then((r) => r.json()).then((all) => fetch('/api/people/' + all.find((one) => one.name === 'Nora').id,
        { method: 'PATCH', headers: { 'content-type': 'application/json' }, body: '{"limits":null}' })).then(done)`,
    );
    const titles = new Set<string>();
    for (const page of pages) {
      await open(guest, page);
      await byCss(guest, "h1");
      await eventually(guest, async () => !(await words(guest, "main")).join().includes("reading …"), 20_000, page);
      titles.add(await guest.getTitle());
      expect([page, ...(await refusals(guest)), ...(await words(guest, "main [role=alert]"))]).toEqual([page]);
      expect((await words(guest, "main .act")).filter(Boolean), page).toEqual(page === "/account" ? ["Change it"] : []);
    }
    // Each tab is called otherwise.
    expect([...titles].filter((one) => /^.+ · Nubrel$/.test(one))).toHaveLength(pages.length);
    await open(guest, "/alerts");
    await byText(guest, "a", "Quiet times");
    expect(await words(guest, 'nav[aria-label="Alerts"] a')).toEqual(["Incidents and rules", "Quiet times"]);
    await open(guest, "/alerts/recipients");
    await byText(guest, "p", "This page is for keepers and owners");
    expect(await refusals(guest)).toEqual([]);
  });
});

describe("an owner changes what somebody may", () => {
  test("it holds at once in what they have open", async () => {
    await open(guest, "/alerts");
    await byText(guest, "h1", "Alerts");
    await open(ines, "/people");
    await press(ines, byCss(ines, '[data-person="Nora"] button'));
    await press(ines, byText(ines, "label", "keeper"));
    await press(ines, byText(ines, "button", "Keep it so"));
    await eventually(
      ines,
      async () => (await (await byCss(ines, '[data-person="Nora"]')).getText()).includes("keeper"),
      10_000,
      "Nora is no keeper",
    );
    // The page is not opened anew.
    await byText(guest, "a", "make a rule");
    expect(await sections(guest)).toContain("Sources");
  });

  test("after ten minutes it asks again who one is, and goes on with what was wanted", async () => {
    await db.database.query("update session set proven_at = now() - interval '11 minutes'");
    await open(ines, "/people");
    await press(ines, byText(ines, "button", "Make the link"));
    await byText(ines, "h2", "Is it still you, Ines?");
    expect(await axeFindings(ines)).toEqual([]);
    const field = await byCss(ines, 'dialog[open] input[type="password"]');
    await field.sendKeys("not the password", Key.ENTER);
    await byText(ines, "p", "This is not your password.");
    await field.clear();
    await field.sendKeys(owner.password, Key.ENTER);
    await byCss(ines, "figure pre");
    expect(await ines.findElements(By.css("dialog[open]"))).toHaveLength(0);
  });

  test("who leaves is out at once", async () => {
    await press(ines, byCss(ines, '[data-person="Nora"] button'));
    await press(ines, byText(ines, "button", "remove"));
    await press(ines, byText(ines, "button", "Remove Nora"));
    await eventually(
      guest,
      async () => (await guest.findElements(By.xpath("//h1[contains(., 'Sign in')]"))).length > 0,
      15_000,
      "Nora is still in",
    );
  });
});

describe("a dashboard is shown by a link", () => {
  let address = "";
  test("to somebody without an account, with its time and nothing around it", async () => {
    const id = await ines.executeAsyncScript<number>(
      "const [body, done] = arguments; fetch('/api/dashboards', { method: 'POST', headers: { 'content-type': 'application/json' }, body }).then((r) => r.json()).then((made) => done(made.id))",
      JSON.stringify({ document: quay }),
    );
    await open(ines, `/dashboards/${id}?last=3600&every=5`);
    await chooseMore(ines, "show it by a link");
    await press(ines, byText(ines, "button", "Make the link"));
    address = await (await byCss(ines, "figure pre")).getText();
    await guest.manage().deleteAllCookies();
    await open(guest, new URL(address).pathname);
    await byText(guest, "h1", "Quay");
    await byText(guest, "h2", "Memory");
    await byCss(guest, "canvas");
    expect(await words(guest, "nav, [role=alert]")).toEqual([]);
    expect(await axeFindings(guest)).toEqual([]);
    await setViewport(guest, 390, 844);
    await eventually(guest, async () => !(await isWide(guest)), 5000, "it is wider than the screen");
    await setViewport(guest, 1280, 800);
  });

  test("opened from there, everything else is the door", async () => {
    await open(guest, "/");
    await byText(guest, "h1", "Sign in");
    await open(guest, new URL(address).pathname);
    await byText(guest, "h1", "Quay");
  });

  test("revoked, it closes within a second", async () => {
    await open(ines, "/people/links");
    expect(await (await byCss(ines, "[data-opened]")).getText()).toContain("opened 2 times");
    await guest.executeScript(
      "window.closedAt = 0; new MutationObserver(() => { if (!window.closedAt && document.body.innerText.includes('This link opens nothing')) window.closedAt = Date.now(); }).observe(document.body, { childList: true, subtree: true, characterData: true });",
    );
    const revokedAt = Date.now();
    await press(ines, byText(ines, "button", "revoke"));
    await byText(guest, "h1", "This link opens nothing");
    expect((await guest.executeScript<number>("return window.closedAt")) - revokedAt).toBeLessThan(1500);
    await byText(ines, "span", "revoked");
  });
});

describe("one's own", () => {
  test("sign-ins are told apart and ended; the password changes", async () => {
    await open(guest, "/");
    await fill(guest, "Name", owner.name);
    await fill(guest, "Password", owner.password);
    await press(guest, byText(guest, "button", "Sign in"));
    await byText(guest, "h1", "Fleet");
    await open(ines, "/account");
    await byCss(ines, '[data-session="other"]');
    await press(ines, byText(ines, "button", "End the other"));
    await byText(guest, "h1", "Sign in");
    await fill(ines, "Password now", owner.password);
    await fill(ines, "Next password", password);
    await press(ines, byText(ines, "button", "Change it"));
    await byText(ines, "p", "It is changed");
  });

  test("a sign-in at a new place is told on every page, and ended there", async () => {
    const signInAs = (program: string) =>
      fetch(`${server.address}/api/session`, {
        method: "POST",
        headers: { "Content-Type": "application/json", Origin: server.address, "User-Agent": program },
        body: JSON.stringify({ name: owner.name, password }),
      });
    await signInAs("somebody's script");
    await open(ines, "/alerts");
    const banner = await byCss(ines, "[data-new-place]");
    expect(await banner.getText()).toContain("from 127.0.0.1");
    expect(await axeFindings(ines)).toEqual([]);
    await press(ines, byText(ines, "button", "It was not: end it"));
    await byText(ines, "h1", owner.name);
    expect(await ines.findElements(By.css("[data-new-place], [data-session='other']"))).toEqual([]);
    await signInAs("somebody's script");
    await open(ines, "/");
    await press(ines, byText(ines, "button", "It was me"));
    await eventually(
      ines,
      async () => (await ines.findElements(By.css("[data-new-place]"))).length === 0,
      10_000,
      "the place is told still",
    );
  });

  test("a token for a script is made with an end, shown once, and revoked", async () => {
    await open(ines, "/account");
    await (await byCss(ines, 'form[aria-label="A new token"] input')).sendKeys("backup of rules");
    await press(ines, byText(ines, "button", "Make it"));
    const token = await (await byCss(ines, 'form[aria-label="A new token"] pre')).getText();
    const ask = () => fetch(`${server.address}/api/rules`, { headers: { Authorization: `Bearer ${token}` } });
    expect((await ask()).status).toBe(200);
    expect(await (await byCss(ines, '[data-token="backup of rules"]')).getText()).toContain("as far as Ines may");
    expect(await axeFindings(ines)).toEqual([]);
    // Two weeks before its end every page says so.
    await db.database.query("update token set until_at = now() + interval '13 days' where name = 'backup of rules'");
    await open(ines, "/");
    expect(await (await byCss(ines, "[data-token-ends]")).getText()).toContain("Your token backup of rules ends on");
    await open(ines, "/account");
    await press(ines, byCss(ines, '[data-token="backup of rules"] button'));
    await byText(ines, "span", "revoked");
    expect((await ask()).status).toBe(401);
  });

  test("time codes are taken up by the secret that is shown, and wanted at the door", async () => {
    await open(ines, "/account");
    await press(ines, byText(ines, "button", "Take them up"));
    const picture = await byCss(ines, "img[alt]");
    const secret = await (await byCss(ines, "figure pre")).getText();
    // As a device does it: Debian's reader of such pictures, and its maker of codes.
    await ines.executeScript("arguments[0].scrollIntoView({ block: 'center' })", picture);
    const file = join(folder, "secret.png");
    writeFileSync(file, await picture.takeScreenshot(), "base64");
    const seen = execFileSync("/usr/bin/zbarimg", ["-q", "--raw", "--nodbus", file], { encoding: "utf8" });
    expect(seen).toContain(`otpauth://totp/Nubrel:Ines?issuer=Nubrel&secret=${secret}&`);
    const codeNow = () => execFileSync("/usr/bin/oathtool", ["--totp", "-b", secret], { encoding: "utf8" }).trim();
    await fill(ines, "The code that it shows", codeNow());
    await press(ines, byText(ines, "button", "Ask me for a code from now on"));
    await byText(ines, "p", "10 codes for recovery are left");
    expect(await axeFindings(ines)).toEqual([]);
    await open(guest, "/");
    await fill(guest, "Name", owner.name);
    await fill(guest, "Password", password);
    await press(guest, byText(guest, "button", "Sign in"));
    await byText(guest, "label", "Code");
    await db.database.query("update account set code_step = 0");
    await fill(guest, "Code", codeNow());
    await press(guest, byText(guest, "button", "Sign in"));
    await byText(guest, "h1", "Fleet");
    await press(ines, byText(ines, "button", "give them up"));
    await byText(ines, "button", "Take them up");
  });

  test("who did what says all of it, and is filtered", async () => {
    await open(ines, "/people/deeds");
    await byCss(ines, '[data-deed="changed their password"]');
    const all = await words(ines, "[data-deed]");
    for (const one of ["Nora accepted an invitation", "Ines invited somebody", "Nora would have looked at a person"])
      expect(all.join("\n")).toContain(one);
    await (await ines.findElement(By.xpath("//label[contains(., 'did what')]//input"))).sendKeys("removed");
    await eventually(
      ines,
      async () => (await words(ines, "[data-deed]")).every((one) => one.includes("removed a person")),
      10_000,
      "the filter does nothing",
    );
    await press(ines, byCss(ines, "[data-deed] summary"));
    expect(await (await byCss(ines, "[data-deed] pre")).getText()).toContain('"role": "keeper"');
  });
});

describe.each([
  ["day", 390],
  ["night", 390],
  ["day", 2560],
] as const)("%s, %i px", (theme, width) => {
  test.each(["/people", "/people/ways-in", "/people/links", "/people/deeds", "/account"])(
    "%s is no wider than the screen, and axe finds nothing",
    async (path) => {
      await ines.executeScript(`localStorage.setItem("nubrel.theme", "${theme}")`);
      await setViewport(ines, width, 844);
      await open(ines, path);
      await byCss(ines, "h1");
      await eventually(
        ines,
        async () => !(await words(ines, "main")).join().includes("reading …"),
        10_000,
        "it reads on",
      );
      expect(await isWide(ines)).toBe(false);
      expect(await axeFindings(ines)).toEqual([]);
    },
  );
});

test("the browsers reported no error, no form without its name, and no breach of the content security policy", async () => {
  // What is refused to somebody is reported as well: that is asked for above. A page that is left takes the download of
  // the application's icon with it.
  const expected = /Failed to load resource: the server responded with a status of 4\d\d|icon from the Manifest/;
  for (const driver of [ines, guest]) {
    const entries = await driver.manage().logs().get("browser");
    expect(entries.map(({ message }) => message).filter((message) => !expected.test(message))).toEqual([]);
  }
});
