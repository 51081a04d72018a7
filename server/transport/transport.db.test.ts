import type { RunningServer } from "../running-server.ts";
import { execFile } from "node:child_process";
import { X509Certificate } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { request as httpRequest } from "node:http";
import { connect, type Socket } from "node:net";
import { connect as connectTls } from "node:tls";
import { request as httpsRequest, type RequestOptions } from "node:https";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import pino from "pino";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { readConfig } from "../config.ts";
import { startServer } from "../compose.ts";
import { Tokens } from "../people/tokens.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { House, namesOf } from "./house.ts";
import { issueCertificate, makeAuthority } from "./issue-certificate.ts";
import { pinOf } from "./transport.ts";

const dayMs = 86_400_000;
const run = promisify(execFile);
let db: TestDatabase;
let folder: string;
const log = pino({ level: "silent" });

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  folder = mkdtempSync(join(tmpdir(), "nubrel-transport-"));
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await db.drop();
});

const start = (env: Record<string, string>): Promise<RunningServer> =>
  startServer(
    readConfig({
      NUBREL_DATABASE_URL: db.url,
      NUBREL_PORT: "0",
      NUBREL_MACHINE: "vault",
      NUBREL_GATHER_MS: "3600000",
      ...env,
    }),
    { log },
  );

/** Asks over TLS as a stranger who trusts `ca` alone; answers the status, or the code by which it fails. */
function asked(address: string, options: RequestOptions): Promise<string | number> {
  return new Promise((resolve) => {
    const request = httpsRequest(new URL("/api/setup", address), { agent: false, ...options }, (response) => {
      response.resume();
      resolve(response.statusCode as number);
    });
    request.on("error", (error) => resolve((error as NodeJS.ErrnoException).code ?? error.message));
    request.end();
  });
}

describe("the house authority", () => {
  let server: RunningServer;
  let ca: string;
  afterAll(() => server.close());

  test("has issued a certificate for every name and address of this machine, and those that were added", async () => {
    server = await start({
      NUBREL_TLS: "house",
      NUBREL_HOUSE: join(folder, "house"),
      NUBREL_NAMES: "nubrel.quay, 10.9.8.7",
    });
    expect(server.address).toMatch(/^https:\/\/127\.0\.0\.1:\d+$/);
    ca = readFileSync(join(folder, "house/authority.crt"), "utf8");
    expect(await asked(server.address, { ca })).toBe(200);
    expect(await asked(server.address.replace("127.0.0.1", "localhost"), { ca })).toBe(200);
    for (const servername of ["nubrel.quay", "localhost"])
      expect(await asked(server.address, { ca, servername, headers: { host: servername } })).toBe(200);
    expect(namesOf(new X509Certificate(readFileSync(join(folder, "house/server.crt"))))).toEqual(
      expect.arrayContaining(["nubrel.quay", "10.9.8.7", "127.0.0.1", "::1"]),
    );
    expect(statSync(join(folder, "house/authority.key")).mode & 0o777).toBe(0o600);
  });
  test("is believed by nobody who was not told, and not for other names", async () => {
    expect(await asked(server.address, {})).toBe("UNABLE_TO_VERIFY_LEAF_SIGNATURE");
    expect(await asked(server.address, { ca, servername: "studio.invalid" })).toBe("ERR_TLS_CERT_ALTNAME_INVALID");
  });
  test("OpenSSL finds nothing wrong with the chain (an independent reading of RFC 5280)", async () => {
    const { stdout } = await run("openssl", [
      "verify",
      "-x509_strict",
      "-purpose",
      "sslserver",
      "-CAfile",
      join(folder, "house/authority.crt"),
      join(folder, "house/server.crt"),
    ]);
    expect(stdout).toContain("server.crt: OK");
  });
  test("its certificate is given to everybody; who comes in clear text on the same port is sent to https", async () => {
    const given = await new Promise<string>((resolve) =>
      httpsRequest(new URL("/house-authority.crt", server.address), { ca, agent: false }, (response) =>
        response.on("data", (data) => resolve(String(data))),
      ).end(),
    );
    expect(given).toBe(ca);
    const plain = (method: string) =>
      new Promise<[number | undefined, string | undefined]>((resolve) =>
        httpRequest(
          new URL("/sources?a=b", server.address.replace("https", "http")),
          { method, agent: false },
          (response) => resolve([response.resume().statusCode, response.headers.location]),
        ).end(),
      );
    expect(await plain("GET")).toEqual([308, `${server.address}/sources?a=b`]);
    expect((await plain("POST"))[0]).toBe(426);
  });
  test("a session's cookie goes over TLS only", async () => {
    const set = await new Promise<readonly string[] | undefined>((resolve) => {
      const request = httpsRequest(
        new URL("/api/setup", server.address),
        { method: "POST", ca, agent: false, headers: { origin: server.address, "content-type": "application/json" } },
        (response) => resolve(response.resume().headers["set-cookie"]),
      );
      request.end(JSON.stringify({ code: server.setupCode, name: "Ines", password: "kestrel on the quay" }));
    });
    expect(set?.[0]).toMatch(/; Secure/);
  });
  test("a collector brings the authority along; one that comes by a wrong name says so in words", async () => {
    const given = {
      NUBREL_TLS: "house",
      NUBREL_HOUSE: join(folder, "house"),
      NUBREL_HOST: "0.0.0.0",
      NUBREL_NAMES: "nubrel.quay 10.9.8.7",
      NUBREL_DATABASE_URL: "",
    };
    const apart = await testDatabase();
    given.NUBREL_DATABASE_URL = apart.url;
    const wide = await start(given);
    try {
      const { port } = new URL(wide.address);
      const sources = wide.database.query<{ id: number }>(
        "insert into source (name, kind, machine, interval_ms) values ('hive', 'collector', 'hive', 5000) returning id",
      );
      const { id } = (await sources).rows[0] as { id: number };
      const { token } = await new Tokens(wide.database).create({ name: "hive", scope: "write", sourceId: id });
      await wide.close();
      const again = await start({ ...given, NUBREL_PORT: port });
      try {
        const script = join(folder, "collector.sh");
        const { stdout } = await run("curl", [
          "-fsS",
          "--insecure",
          "--pinnedpubkey",
          pinOf(new X509Certificate(readFileSync(join(folder, "house/server.crt")))),
          "-H",
          `Authorization: Bearer ${token}`,
          `https://127.0.0.1:${port}/collector/linux`,
        ]);
        writeFileSync(script, stdout);
        expect(stdout).toContain(ca.trim());
        const said = async (address: string) =>
          (
            await run("timeout", ["12", "dash", script, "run"], {
              env: {
                ...process.env,
                NUBREL_ADDRESS: address,
                NUBREL_STATE: join(folder, "state"),
                NUBREL_INTERVAL: "1",
                NUBREL_SLOW_EVERY: "1000",
                NUBREL_DRIVES_EVERY: "1000",
              },
            }).catch((error) => error)
          ).stderr as string;
        expect(await said(`https://127.0.0.2:${port}`)).toContain(
          `wrong name: the certificate of https://127.0.0.2:${port} does not cover this name`,
        );
        expect(await said(`https://127.0.0.1:${port}`)).toContain("sending works again");
      } finally {
        await again.close();
      }
    } finally {
      await wide.close().catch(() => {});
      await apart.drop();
    }
  }, 60_000);
  test("its authority may issue for the house alone, as openssl sees it (RFC 5280 §4.2.1.10), lasts two years, and is made anew with a word", async () => {
    const place = join(folder, "constrained");
    const said: string[] = [];
    const house = new House(place, (why) => said.push(why));
    const now = Date.now();
    await house.certificateFor(["vm", "10.1.2.3", "nubrel.quay"], now);
    const authority = {
      certificatePem: readFileSync(join(place, "authority.crt"), "utf8"),
      keyPem: readFileSync(join(place, "authority.key"), "utf8"),
    };
    const verified = async (...names: string[]) => {
      const pair = await issueCertificate(authority, names, new Date(now - dayMs), new Date(now + dayMs));
      writeFileSync(join(place, "try.crt"), pair.certificatePem);
      return run("openssl", [
        "verify",
        "-x509_strict",
        "-CAfile",
        join(place, "authority.crt"),
        join(place, "try.crt"),
      ]).then(
        () => "ok",
        (error: { stderr: string; stdout: string }) =>
          /permitted subtree violation/.exec(error.stderr + error.stdout)?.[0] ?? error.stderr,
      );
    };
    for (const name of [
      "vm",
      "nubrel.quay",
      "hive.lan",
      "x.local",
      "10.200.3.4",
      "192.168.1.1",
      "127.0.0.1",
      "::1",
      "fd12::5",
    ])
      expect(await verified("vm", name), name).toBe("ok");
    for (const name of ["bank.example", "quay", "9.9.9.9", "2001:db8::1"])
      expect(await verified("vm", name), name).toBe("permitted subtree violation");
    expect(Date.parse(new X509Certificate(authority.certificatePem).validTo) - now).toBeLessThan(731 * dayMs);
    expect(house.authorityEnds(now + 600 * dayMs).isSoon).toBe(false);
    expect(house.authorityEnds(now + 650 * dayMs).isSoon).toBe(true);
    // another address of the house: the same authority
    await house.certificateFor(["vm", "10.77.0.1"], now + 650 * dayMs);
    expect(said).toEqual([]);
    await house.certificateFor(["vm"], now + 705 * dayMs);
    await house.certificateFor(["vm", "nubrel.example.org"], now + 705 * dayMs);
    expect(said).toEqual(["the one before ends", "it may not issue certificates for nubrel.example.org"]);
  });
  test("over TLS cookies are bound to the host, the browser is told to come by TLS, and no suite with CBC is spoken", async () => {
    const answer = await new Promise<{ cookies: string[]; sts: string | undefined }>((resolve) => {
      const request = httpsRequest(
        new URL("/api/session", server.address),
        { method: "POST", ca, agent: false, headers: { origin: server.address, "content-type": "application/json" } },
        (response) =>
          resolve({
            cookies: response.resume().headers["set-cookie"] ?? [],
            sts: response.headers["strict-transport-security"],
          }),
      );
      request.end(JSON.stringify({ name: "Ines", password: "kestrel on the quay" }));
    });
    expect(answer.cookies.map((cookie) => cookie.split("=")[0])).toEqual([
      "__Host-nubrel_session",
      "__Host-nubrel_browser",
    ]);
    expect(answer.sts).toMatch(/^max-age=\d{8}/);
    const { port } = new URL(server.address);
    const speaks = (...suite: string[]) =>
      run("sh", ["-c", `openssl s_client -connect 127.0.0.1:${port} ${suite.join(" ")} </dev/null`], {
        timeout: 10_000,
      }).then(
        () => true,
        () => false,
      );
    expect(await speaks("-tls1_2", "-cipher", "ECDHE-ECDSA-AES128-GCM-SHA256")).toBe(true);
    expect(await speaks("-tls1_3")).toBe(true);
    expect(
      await speaks(
        "-tls1_2",
        "-cipher",
        "ECDHE-ECDSA-AES128-SHA256:ECDHE-ECDSA-AES128-SHA:ECDHE-ECDSA-AES256-SHA384:AES128-SHA",
      ),
    ).toBe(false);
    expect(await speaks("-tls1_1")).toBe(false);
  });
  test("silent connections are ended over TLS as in clear text, before and after the handshake", async () => {
    const { port } = new URL(server.address);
    const open = new Set<Socket>();
    const ended = new Promise<void>((resolve) => {
      for (let i = 0; i < 30; i++) {
        const socket: Socket =
          i % 3 === 0
            ? connect(Number(port), "127.0.0.1")
            : connectTls({ port: Number(port), host: "127.0.0.1", ca, ALPNProtocols: ["http/1.1"] });
        open.add(socket);
        socket.on("error", () => {});
        if (i % 3 === 2) socket.write("GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n"); // a head that never ends
        socket.resume().once("close", () => {
          open.delete(socket);
          if (open.size === 0) resolve();
        });
      }
    });
    await ended;
    expect(open.size).toBe(0);
  }, 45_000);
  test("renews before the end, keeps its key, and covers a name that is added", async () => {
    const house = new House(join(folder, "other"));
    const now = Date.now();
    const first = new X509Certificate((await house.certificateFor(["a.quay"], now)).certificatePem);
    const same = new X509Certificate((await house.certificateFor(["a.quay"], now + 100 * dayMs)).certificatePem);
    const renewed = new X509Certificate((await house.certificateFor(["a.quay"], now + 130 * dayMs)).certificatePem);
    const wider = new X509Certificate(
      (await house.certificateFor(["a.quay", "b.quay"], now + 130 * dayMs)).certificatePem,
    );
    expect(same.fingerprint256).toBe(first.fingerprint256);
    expect(renewed.fingerprint256).not.toBe(first.fingerprint256);
    expect([pinOf(renewed), pinOf(wider)]).toEqual([pinOf(first), pinOf(first)]);
    expect(namesOf(wider)).toEqual(["a.quay", "b.quay"]);
  });
});

describe("a given certificate", () => {
  const files = () => ({ NUBREL_CERT: join(folder, "given.crt"), NUBREL_KEY: join(folder, "given.key") });
  const give = async (name: string) => {
    const authority = await makeAuthority(
      "Kestrel Quay",
      new Date(Date.now() - dayMs),
      new Date(Date.now() + 10 * dayMs),
    );
    const pair = await issueCertificate(
      authority,
      [name, "127.0.0.1"],
      new Date(Date.now() - dayMs),
      new Date(Date.now() + 5 * dayMs),
    );
    writeFileSync(files().NUBREL_KEY, pair.keyPem);
    writeFileSync(files().NUBREL_CERT, pair.certificatePem);
    return authority.certificatePem;
  };
  test("is used, and taken up again when its files change, without a restart", async () => {
    const first = await give("one.quay");
    const server = await start(files());
    try {
      expect(await asked(server.address, { ca: first })).toBe(200);
      const second = await give("two.quay");
      await expect.poll(() => asked(server.address, { ca: second }), { timeout: 20_000, interval: 500 }).toBe(200);
      expect(await asked(server.address, { ca: first })).not.toBe(200);
    } finally {
      await server.close();
    }
  });
  test.each([
    [
      () => ({ NUBREL_CERT: "/nowhere.crt", NUBREL_KEY: "/nowhere.key" }),
      "NUBREL_CERT=/nowhere.crt cannot be read (ENOENT)",
    ],
    [
      () => ({ NUBREL_CERT: join(folder, "given.key"), NUBREL_KEY: join(folder, "given.key") }),
      "cannot be used together",
    ],
    [() => ({ NUBREL_CERT: "/nowhere.crt" }), "NUBREL_CERT and NUBREL_KEY belong together"],
    [() => ({ NUBREL_TLS: "house" }), "NUBREL_TLS=house needs NUBREL_HOUSE"],
    [() => ({ NUBREL_TLS: "maybe" }), "NUBREL_TLS=maybe is not known"],
  ])("that cannot be used is told at the start (%#): %s", async (env, words) => {
    await expect((async () => start(env()))()).rejects.toThrow(words);
  });
});

test("forwarded headers are believed from configured addresses only", async () => {
  const origin = async (env: Record<string, string>) => {
    const server = await start(env);
    try {
      const answer = await fetch(`${server.address}/api/session`, {
        method: "POST",
        headers: {
          origin: "https://nubrel.quay",
          "x-forwarded-proto": "https",
          "x-forwarded-host": "nubrel.quay",
          "content-type": "application/json",
        },
        body: "{}",
      });
      return answer.status;
    } finally {
      await server.close();
    }
  };
  expect(await origin({})).toBe(403); // another origin than the one that the request came to
  expect(await origin({ NUBREL_PROXIES: "10.0.0.1" })).toBe(403);
  expect(await origin({ NUBREL_PROXIES: "10.0.0.1, 127.0.0.1", NUBREL_NAMES: "nubrel.quay" })).toBe(422);
  // a name that this server was not told to answer to
  expect(await origin({ NUBREL_PROXIES: "10.0.0.1, 127.0.0.1" })).toBe(421);
});
