import { type ChildProcess, spawn } from "node:child_process";
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { request } from "node:https";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { WebDriver } from "selenium-webdriver";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../server/testing/test-database.ts";
import { issueCertificate, makeAuthority } from "../server/transport/issue-certificate.ts";
import { byCss, byText, openBrowser } from "./support/browser.mjs";
import { makeOwner, owner } from "./support/first-owner.mjs";
import { startServerProcess } from "./support/server-process.mjs";

// Nubrel below a path of a web server of Debian's, by the very configuration that docs/proxy gives: of it only port,
// certificate and Nubrel's address are put in place.
const root = new URL("..", import.meta.url).pathname;
const modules = ["mpm_event", "authz_core", "ssl", "proxy", "proxy_http", "headers", "alias"];
const proxies = [
  {
    name: "nginx",
    program: "/usr/sbin/nginx",
    args: (folder: string) => ["-p", folder, "-e", join(folder, "error.log"), "-c", join(folder, "whole.conf")],
    whole: (folder: string) =>
      `daemon off; user root; pid ${folder}/pid; events {} http { access_log off; ${["client_body", "proxy", "fastcgi", "uwsgi", "scgi"].map((kind) => `${kind}_temp_path ${folder}/${kind};`).join(" ")} include ${folder}/site.conf; }`,
  },
  {
    name: "apache2",
    program: "/usr/sbin/apache2",
    args: (folder: string) => ["-DFOREGROUND", "-d", folder, "-f", join(folder, "whole.conf")],
    whole: (folder: string, port: number) =>
      [
        ...modules.map((module) => `LoadModule ${module}_module /usr/lib/apache2/modules/mod_${module}.so`),
        `ServerName localhost`,
        `PidFile ${folder}/pid`,
        `DefaultRuntimeDir ${folder}`,
        `User www-data`,
        `Group www-data`,
        `ErrorLog ${folder}/error.log`,
        `Listen 127.0.0.1:${port}`,
        `Include ${folder}/site.conf`,
      ].join("\n"),
  },
] as const;

const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const probe = createServer().listen(0, "127.0.0.1", () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });

interface Answer {
  readonly status: number;
  readonly headers: Readonly<Record<string, string | string[] | undefined>>;
  readonly text: string;
}

/** Asks from an address of this machine's own, so that it can be told from another. */
function ask(address: string, path: string, options: object = {}, body?: string): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const asked = request(
      new URL(address + path),
      { rejectUnauthorized: false, localAddress: "127.0.0.9", ...options },
      async (response) => {
        let text = "";
        for await (const piece of response) text += piece;
        resolve({ status: response.statusCode as number, headers: response.headers, text });
      },
    );
    asked.once("error", reject);
    asked.end(body);
  });
}

for (const { name, program, args, whole } of proxies)
  describe.skipIf(!existsSync(program))(`behind ${name}`, () => {
    let db: TestDatabase;
    let folder: string;
    let server: Awaited<ReturnType<typeof startServerProcess>>;
    let proxy: ChildProcess;
    let said = "";
    let address: string;
    let browser: Awaited<ReturnType<typeof openBrowser>>;
    let driver: WebDriver;
    let cookie = "";
    const signedIn = (method: string, path: string, body?: object) =>
      ask(
        address,
        path,
        {
          method,
          headers: { "Content-Type": "application/json", Cookie: cookie, Origin: new URL(address).origin },
        },
        body && JSON.stringify(body),
      );

    beforeAll(async () => {
      db = await testDatabase({ migrated: false });
      folder = mkdtempSync(join(tmpdir(), `nubrel-${name}-`));
      server = await startServerProcess(db.url, {
        env: {
          NUBREL_BASE_PATH: "/nubrel",
          NUBREL_NAMES: "localhost",
          NUBREL_PROXIES: "127.0.0.1",
          NUBREL_MACHINE: "playout",
          NUBREL_GATHER_MS: "1000",
        },
      });
      expect(server.address).toMatch(/^http:\/\/127\.0\.0\.1:\d+\/nubrel$/);
      const port = await freePort();
      address = `https://localhost:${port}/nubrel`;
      const [from, until] = [new Date(Date.now() - 60_000), new Date(Date.now() + 86_400_000)];
      const authority = await makeAuthority("a house", from, until);
      const { certificatePem, keyPem } = await issueCertificate(authority, ["localhost"], from, until);
      const certificate = join(folder, "certificate.pem");
      const key = join(folder, "key.pem");
      writeFileSync(certificate, certificatePem);
      writeFileSync(key, keyPem);
      const site = readFileSync(join(root, "docs/proxy", `${name}.conf`), "utf8")
        .replaceAll("watch.example.pem", "@CERTIFICATE@")
        .replaceAll("watch.example.key", "@KEY@")
        .replaceAll("/etc/ssl/certs/@CERTIFICATE@", certificate)
        .replaceAll("/etc/ssl/private/@KEY@", key)
        .replaceAll("watch.example", "localhost")
        .replaceAll("listen 443", `listen 127.0.0.1:${port}`)
        .replaceAll("*:443", `127.0.0.1:${port}`)
        .replaceAll("http://127.0.0.1:7373", new URL(server.address).origin);
      writeFileSync(join(folder, "site.conf"), site);
      mkdirSync(join(folder, "logs"));
      writeFileSync(join(folder, "whole.conf"), whole(folder, port));
      proxy = spawn(program, args(folder), { stdio: ["ignore", "pipe", "pipe"] });
      for (const stream of [proxy.stdout, proxy.stderr]) stream?.on("data", (text) => (said += text));
      for (let tries = 0; ; tries++) {
        if (await ask(address, "/api/health").catch(() => undefined)) break;
        if (tries > 100 || proxy.exitCode !== null) throw new Error(`${name} does not serve: ${said}`);
        await new Promise((resolve) => setTimeout(resolve, 100));
      }
      browser = await openBrowser({ insecure: true });
      driver = browser.driver;
    });
    afterAll(async () => {
      await browser?.close();
      if (proxy && proxy.exitCode === null) {
        const end = new Promise((resolve) => proxy.once("exit", resolve));
        proxy.kill("SIGTERM");
        await end;
      }
      await server?.stop();
      rmSync(folder, { recursive: true, force: true });
      await db?.drop();
    });

    test("the first owner is made, and the path stays in the address", async () => {
      await makeOwner(driver, { address: `${address}/`, setupCode: server.setupCode });
      expect(await driver.getCurrentUrl()).toBe(`${address}/`);
    });

    test("what was gathered comes by itself, over a stream that the proxy does not hold back", async () => {
      const newest = () =>
        driver.executeScript(
          "return new Promise((ok) => { const s = new EventSource('/nubrel/api/live'); s.addEventListener('samples', () => { s.close(); ok(performance.now()); }); setTimeout(() => ok(null), 8000); })",
        );
      expect(await newest()).not.toBeNull();
      await driver.get(`${address}/`);
      await byCss(driver, '[href="/nubrel/machines/playout"]');
    });

    test("an address deep in it opens when it is loaded anew, and links lead on below the path", async () => {
      await driver.get(`${address}/machines/playout`);
      await byText(driver, "h1", "playout");
      const outside = (await driver.executeScript(
        "return [...document.querySelectorAll('a[href]')].map((a) => a.getAttribute('href')).filter((href) => href.startsWith('/') && !/^\\/nubrel($|\\/)/.test(href))",
      )) as string[];
      expect(outside).toEqual([]);
      const loaded = (await driver.executeScript(
        "return performance.getEntriesByType('resource').map(({ name }) => new URL(name).pathname).filter((path) => !path.startsWith('/nubrel/'))",
      )) as string[];
      expect(loaded).toEqual([]);
    });

    test("the browser's log has nothing to say", async () => {
      const log = await driver.manage().logs().get("browser");
      // A page that is left takes the download of the application's icon with it, which the browser tells as a failure.
      const usual = /status of 401|icon from the Manifest/;
      expect(log.map(({ message }) => message).filter((message) => !usual.test(message))).toEqual([]);
      const { status, headers } = await ask(address, "/icon-192.png");
      expect([status, headers["content-type"]]).toEqual([200, "image/png"]);
    });

    test("who comes is told right, whatever they say of themselves; the cookie is of TLS and of this path", async () => {
      const origin = new URL(address).origin;
      const { status, headers } = await ask(
        address,
        "/api/session",
        {
          method: "POST",
          headers: { "Content-Type": "application/json", Origin: origin, "X-Forwarded-For": "203.0.113.7" },
        },
        JSON.stringify(owner),
      );
      expect(status).toBe(200);
      expect(String(headers["set-cookie"])).toMatch(/__Host-nubrel_session\.nubrel=[^;]+;.*Secure/);
      cookie = (headers["set-cookie"] as string[]).map((one) => one.split(";")[0]).join("; ");
      const sessions = await signedIn("GET", "/api/me/sessions");
      expect(sessions.text).toContain("127.0.0.9");
      expect(sessions.text).not.toContain("203.0.113.7");
    });

    test("the path without its slash leads there, what is beside it does not answer as Nubrel", async () => {
      const bare = await ask(address, "");
      expect([bare.status, bare.headers["location"]]).toEqual([308, expect.stringMatching(/\/nubrel\/$/)]);
      expect((await ask(new URL(address).origin, "/api/health")).status).toBe(404);
    });

    test("a collector is sent to the address with its path, and its samples arrive by it", async () => {
      const source = { kind: "collector", name: "vault", machine: "vault", intervalMs: 5000 };
      const { id } = JSON.parse((await signedIn("POST", "/api/sources", source)).text);
      const asked = { name: "vault", scope: "write", sourceId: id };
      const { token } = JSON.parse((await signedIn("POST", "/api/tokens", asked)).text);
      const { text } = await ask(address, "/collector/linux", { headers: { Authorization: `Bearer ${token}` } });
      expect(text).toContain(`address='${address}'`);
      const pushed = await ask(
        address,
        "/api/push/openmetrics",
        { method: "POST", headers: { Authorization: `Bearer ${token}` } },
        "up 1\n# EOF\n",
      );
      expect(pushed.status).toBe(200);
      const described = JSON.parse((await signedIn("GET", "/api/openapi.json")).text);
      expect(described.servers).toEqual([{ url: "/nubrel" }]);
    });
  });
