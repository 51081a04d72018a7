import { isLoopback } from "../http/loopback.ts";
import { X509Certificate } from "node:crypto";
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from "node:fs";
import { hostname, networkInterfaces } from "node:os";
import { join } from "node:path";
import { isPermitted, permittedFor } from "./name-constraints.ts";
import type { KeyPair } from "./issue-certificate.ts";

/** What issues is large, and needed once in months. */
const issuing = () => import("./issue-certificate.ts");
const dayMs = 86_400_000;
/** An authority is believed by other machines: it is not for ever. */
const authorityDays = 730;
/** It is made anew this long before its end; that is told before, and when it is done. */
const authorityRenewMs = 30 * dayMs;
const authorityToldMs = 90 * dayMs;
const serverDays = 180;
/** The certificate is renewed this long before its end. */
const renewBeforeMs = 60 * dayMs;
/** Clocks of other machines may go behind ours. */
const backdatedMs = dayMs;

/** The house authority: kept in a folder, made once; issues this server's certificate and renews it. */
export class House {
  readonly #folder: string;
  readonly #renewed: (why: string) => void;

  /** `renewed` hears why a new authority was made: what believed the one before must be given it. */
  constructor(folder: string, renewed: (why: string) => void = () => {}) {
    this.#folder = folder;
    this.#renewed = renewed;
  }

  get authorityPem(): string {
    return readFileSync(join(this.#folder, "authority.crt"), "utf8");
  }

  /**
   * A certificate that covers these names and lasts for a while yet: the one that is there, or a new one with the same
   * key.
   */
  async certificateFor(names: readonly string[], nowMs: number): Promise<KeyPair> {
    mkdirSync(this.#folder, { recursive: true, mode: 0o700 });
    const authority = await this.#authorityFor(names, nowMs);
    const known = this.#read("server");
    if (known && covers(known, authority, names, nowMs)) return known;
    const until = Math.min(
      nowMs + serverDays * dayMs,
      Date.parse(new X509Certificate(authority.certificatePem).validTo),
    );
    const { issueCertificate } = await issuing();
    return this.#write(
      "server",
      await issueCertificate(authority, names, new Date(nowMs - backdatedMs), new Date(until), known?.keyPem),
    );
  }

  /** When the authority ends, where that is soon; what rests on it must be given the new one then. */
  authorityEnds(nowMs: number): { readonly untilMs: number; readonly isSoon: boolean } {
    const untilMs = Date.parse(new X509Certificate(this.authorityPem).validTo);
    return { untilMs, isSoon: untilMs - nowMs < authorityToldMs };
  }

  /** The authority that is there, or a new one: there is none, it ends, or it may not issue for one of these names. */
  async #authorityFor(names: readonly string[], nowMs: number): Promise<KeyPair> {
    const known = this.#read("authority");
    const outside = known && this.#outside(names);
    if (
      known &&
      outside?.length === 0 &&
      Date.parse(new X509Certificate(known.certificatePem).validTo) - nowMs > authorityRenewMs
    )
      return known;
    const permitted = permittedFor(names);
    const { makeAuthority } = await issuing();
    const made = this.#write(
      "authority",
      await makeAuthority(
        `Nubrel house authority of ${hostname()}`,
        new Date(nowMs - backdatedMs),
        new Date(nowMs + authorityDays * dayMs),
        permitted,
      ),
    );
    writeFileSync(join(this.#folder, "permitted.json"), JSON.stringify(permitted), { mode: 0o600 });
    if (known)
      this.#renewed(
        outside && outside.length > 0
          ? `it may not issue certificates for ${outside.join(", ")}`
          : "the one before ends",
      );
    return made;
  }

  /** Names for which the authority may issue nothing; those of earlier versions may issue for all. */
  #outside(names: readonly string[]): readonly string[] {
    const file = join(this.#folder, "permitted.json");
    if (!existsSync(file)) return [];
    const permitted = JSON.parse(readFileSync(file, "utf8")) as string[];
    return names.filter((name) => !isPermitted(name, permitted));
  }

  #read(name: string): KeyPair | undefined {
    const [certificate, key] = [join(this.#folder, `${name}.crt`), join(this.#folder, `${name}.key`)];
    return existsSync(certificate) && existsSync(key)
      ? { certificatePem: readFileSync(certificate, "utf8"), keyPem: readFileSync(key, "utf8") }
      : undefined;
  }

  /** The key first: a certificate without its key would be of no use after a kill between. */
  #write(name: string, pair: KeyPair): KeyPair {
    for (const [file, text] of [
      [`${name}.key`, pair.keyPem],
      [`${name}.crt`, pair.certificatePem],
    ] as const) {
      writeFileSync(join(this.#folder, `${file}.part`), text, { mode: 0o600 });
      renameSync(join(this.#folder, `${file}.part`), join(this.#folder, file));
    }
    return pair;
  }
}

function covers(
  { certificatePem, keyPem }: KeyPair,
  authority: KeyPair,
  names: readonly string[],
  nowMs: number,
): boolean {
  const certificate = new X509Certificate(certificatePem);
  const covered = namesOf(certificate);
  return (
    Date.parse(certificate.validTo) - nowMs > renewBeforeMs &&
    names.every((name) => covered.includes(name)) &&
    certificate.verify(new X509Certificate(authority.certificatePem).publicKey) &&
    keyPem.includes("PRIVATE KEY")
  );
}

/** Names and addresses that a certificate covers. */
export function namesOf(certificate: X509Certificate): readonly string[] {
  return (certificate.subjectAltName ?? "")
    .split(", ")
    .filter((name) => name !== "")
    .map((name) => plainAddress(name.replace(/^(DNS|IP Address):/, "")));
}

/** OpenSSL writes ::1 as 0:0:0:0:0:0:0:1. */
function plainAddress(name: string): string {
  return name.includes(":") ? new URL(`http://[${name}]`).hostname.slice(1, -1) : name;
}

/**
 * Names and addresses by which this machine is reached, as far as it knows them itself, and those that a person added.
 */
export function ownNames(more: readonly string[]): readonly string[] {
  const addresses = Object.values(networkInterfaces())
    .flatMap((list) => (list ?? []).map(({ address }) => address.split("%")[0] as string))
    .filter((address) => !address.startsWith("fe80:"));
  return [...new Set([hostname(), "localhost", "127.0.0.1", "::1", ...addresses, ...more].map(plainAddress))];
}

/**
 * Where other machines reach this one: what a person has said, its addresses of version 4, its name, its other
 * addresses; never loopback.
 */
export function reachableNames(more: readonly string[]): readonly string[] {
  const all = Object.values(networkInterfaces())
    .flatMap((list) => list ?? [])
    .filter(({ internal, address }) => !internal && !address.startsWith("fe80:"));
  const of = (family: string) => all.filter((one) => one.family === family).map(({ address }) => address);
  return [...new Set([...more, ...of("IPv4"), hostname(), ...of("IPv6")])].filter(
    (name) => !isLoopback(name) && name !== "localhost",
  );
}
