import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer, type ServerOptions } from "node:https";
import type { AddressInfo, Server } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, afterEach, beforeAll, expect, test } from "vitest";
import type { Trust } from "../../../core/sources/source.ts";
import { PageAsker } from "./pull-page.ts";
import type { PullError } from "../../transport/pull-error.ts";

// Certificates made by OpenSSL's own tool, shown by real servers: each fault is told apart, in words.
let folder: string;
const servers: Server[] = [];
const file = (name: string) => join(folder, name);
const openssl = (...args: readonly string[]) =>
  execFileSync("openssl", [...args], { cwd: folder, stdio: ["ignore", "pipe", "ignore"] });
const pem = (name: string) => readFileSync(file(`${name}.crt`), "utf8");

interface Making {
  readonly by?: string;
  readonly digest?: string;
  readonly bits?: number;
  readonly extensions?: string;
}

/** Makes name.key and name.crt, signed by another or by itself. */
function make(
  name: string,
  { by, digest = "sha256", bits = 2048, extensions = "subjectAltName=DNS:localhost,IP:127.0.0.1" }: Making = {},
): void {
  writeFileSync(file(`${name}.cnf`), `${extensions}\n`);
  openssl("genrsa", "-out", `${name}.key`, String(bits));
  openssl("req", "-new", "-key", `${name}.key`, "-subj", `/CN=${name}`, "-out", `${name}.csr`);
  openssl(
    "x509",
    "-req",
    "-in",
    `${name}.csr`,
    "-days",
    "90",
    `-${digest}`,
    "-extfile",
    `${name}.cnf`,
    "-out",
    `${name}.crt`,
    ...(by === undefined
      ? ["-signkey", `${name}.key`]
      : ["-CA", `${by}.crt`, "-CAkey", `${by}.key`, "-CAcreateserial"]),
  );
}

const authority = "basicConstraints=critical,CA:TRUE\nkeyUsage=keyCertSign";
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-certificates-"));
  make("root", { extensions: authority });
  make("between", { by: "root", extensions: authority });
  make("leaf", { by: "between" });
  make("direct", { by: "root" });
  make("public", {
    by: "between",
    extensions: "subjectAltName=DNS:localhost\nauthorityInfoAccess=caIssuers;URI:http://issuer.invalid/between.crt",
  });
  make("alone");
  make("sha1", { by: "root", digest: "sha1" });
  make("client", { by: "root", extensions: "subjectAltName=DNS:localhost\nextendedKeyUsage=clientAuth" });
  make("short", { by: "root", bits: 768 });
}, 60_000);
afterEach(() => {
  for (const server of servers.splice(0)) server.close();
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

async function shown(name: string, more: ServerOptions = {}, chain: readonly string[] = []): Promise<number> {
  const server = createServer(
    { key: readFileSync(file(`${name}.key`)), cert: [name, ...chain].map(pem).join(""), ...more },
    (_request, response) => response.end("lamp 1\n"),
  );
  server.on("tlsClientError", () => {});
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return (server.address() as AddressInfo).port;
}
async function failure(port: number, trust: Trust = { kind: "issuer", pem: pem("root") }): Promise<PullError> {
  const asker = new PageAsker({ scheme: "https", host: "localhost", port, path: "/metrics", timeoutMs: 3000 }, trust, {
    kind: "none",
  });
  try {
    await asker.ask(1_000_000);
    throw new Error("it was believed");
  } catch (error) {
    return error as PullError;
  } finally {
    await asker.close();
  }
}
const system: Trust = { kind: "system" };

test("a whole chain is believed by its root", async () => {
  const asker = new PageAsker(
    { scheme: "https", host: "localhost", port: await shown("leaf", {}, ["between"]), path: "/", timeoutMs: 3000 },
    { kind: "issuer", pem: pem("root") },
    { kind: "none" },
  );
  const { certificateUntilMs } = await asker.ask(1000);
  await asker.close();
  expect(Math.abs((certificateUntilMs ?? 0) - Date.now() - 90 * 86_400_000)).toBeLessThan(120_000);
});

test.each<[string, string, string, () => Promise<PullError>, boolean?]>([
  ["signed by itself", "self-signed", "signed by itself", async () => failure(await shown("alone"), system)],
  [
    "an issuer that nobody knows",
    "unknown issuer",
    'it comes from "root"',
    async () => failure(await shown("direct"), system),
  ],
  [
    "an issuer that nobody knows, with its chain",
    "unknown issuer",
    'it comes from "root"',
    async () => failure(await shown("leaf", {}, ["between", "root"]), system),
  ],
  [
    "another issuer than the one pasted, with its chain",
    "unknown issuer",
    'pasted was "alone"',
    async () => failure(await shown("leaf", {}, ["between", "root"]), { kind: "issuer", pem: pem("alone") }),
  ],
  [
    "a missing intermediate, of a certificate that says where it is to be had",
    "missing intermediate",
    '"between" has issued it, and that one is neither sent along nor known here',
    async () => failure(await shown("public"), system),
  ],
  [
    "a missing intermediate, where the root was pasted",
    "missing intermediate",
    'neither sent along nor the one pasted, "root"',
    async () => failure(await shown("leaf")),
  ],
  [
    "a signature that can be forged",
    "weak signature",
    "SHA-1",
    async () => failure(await shown("sha1", { ciphers: "DEFAULT@SECLEVEL=0" })),
  ],
  [
    "a key that is too short",
    "weak key",
    "too short",
    async () => failure(await shown("short", { ciphers: "DEFAULT@SECLEVEL=0" })),
  ],
  ["a certificate for clients only", "wrong purpose", "meant for clients", async () => failure(await shown("client"))],
  [
    "a client's certificate that is wanted (TLS 1.3)",
    "client certificate wanted",
    "wants a certificate from us",
    async () =>
      failure(
        await shown("direct", { requestCert: true, rejectUnauthorized: true, ca: pem("root"), minVersion: "TLSv1.3" }),
      ),
    false,
  ],
  [
    "versions of TLS that are given up",
    "old protocol",
    "given up",
    async () =>
      failure(await shown("direct", { minVersion: "TLSv1", maxVersion: "TLSv1.1", ciphers: "DEFAULT@SECLEVEL=0" })),
    false,
  ],
])("%s", async (_name, kind, words, at, hasCertificate = true) => {
  const error = await at();
  expect(`${error.kind}: ${error.message}`).toContain(`${kind}: `);
  expect(error.message).toContain(words);
  expect(error.certificate !== undefined).toBe(hasCertificate);
  if (hasCertificate) expect(error.certificate?.sha256).toMatch(/^([0-9A-F]{2}:){31}[0-9A-F]{2}$/);
  // Never OpenSSL's words alone, never "try again" alone.
  expect(error.message).not.toMatch(/error:[0-9A-F]{8}|SSL routines/);
  expect(error.remedy.length).toBeGreaterThan(30);
  expect(error.remedy).not.toMatch(/^Try again/i);
});
