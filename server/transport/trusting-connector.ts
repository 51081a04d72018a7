import { existsSync, readFileSync, statSync } from "node:fs";
import { connect as connectTcp, isIP, type Socket } from "node:net";
import {
  connect as connectTls,
  createSecureContext,
  type DetailedPeerCertificate,
  type PeerCertificate,
  rootCertificates,
  type SecureContext,
  type TLSSocket,
} from "node:tls";
import { buildConnector } from "undici";
import type { CertificateView } from "../../core/sources/source-failure.ts";
import type { PullAddress, Trust } from "../../core/sources/source.ts";

/** The certificate is another than the one that was pinned. */
export class OtherFingerprintError extends Error {
  override name = "OtherFingerprintError";
  readonly certificate: CertificateView;
  constructor(certificate: CertificateView) {
    super(`the certificate has the fingerprint ${certificate.sha256}`);
    this.certificate = certificate;
  }
}

/** Connects to an address, and believes its certificate as far as `trust` says. */
export function trustingConnector({ scheme, timeoutMs }: PullAddress, trust: Trust): buildConnector.connector {
  if (scheme === "http") return buildConnector({ timeout: timeoutMs });
  if (trust.kind === "fingerprint") return pinned(trust.sha256, timeoutMs);
  return buildConnector({
    timeout: timeoutMs,
    maxCachedSessions: 0,
    ...(trust.kind === "unchecked" && { rejectUnauthorized: false }),
    ...(trust.kind === "issuer" && { ca: trust.pem }),
    ...(trust.kind === "system" && { secureContext: systemContext() }),
  });
}

/** Connects to an address whose issuers the system trusts. */
export function systemConnector(to: string, timeout: number): buildConnector.connector {
  return buildConnector({ timeout, ...(to.startsWith("https:") && { secureContext: systemContext() }) });
}

/** Where systems keep the issuers that they trust, in one file: Debian's and Fedora's families. */
const systemFiles = ["/etc/ssl/certs/ca-certificates.crt", "/etc/pki/tls/certs/ca-bundle.crt"];
/** Issuers that Node.js ships and those of the system, as PEM. */
export function systemIssuers(): string[] {
  const file = systemFiles.find((one) => existsSync(one));
  return [...rootCertificates, ...(file === undefined ? [] : [readFileSync(file, "utf8")])];
}

let system: { readonly context: SecureContext; readonly changedAtMs: number } | undefined;

/**
 * The issuers that Node.js ships and those of the system, which a person may have added to. One context for all
 * sources: to make one takes milliseconds.
 */
function systemContext(): SecureContext {
  const file = systemFiles.find((one) => existsSync(one));
  const changedAtMs = file === undefined ? 0 : statSync(file).mtimeMs;
  if (system?.changedAtMs !== changedAtMs)
    system = { context: createSecureContext({ ca: systemIssuers() }), changedAtMs };
  return system.context;
}

function pinned(sha256: string, timeoutMs: number): buildConnector.connector {
  const wanted = plainDigits(sha256);
  const connect = buildConnector({ timeout: timeoutMs, rejectUnauthorized: false, maxCachedSessions: 0 });
  return (options, callback) => {
    connect(options, (error, socket) => {
      if (error) return callback(error, null);
      const certificate = certificateOf(socket as TLSSocket);
      if (certificate && plainDigits(certificate.sha256) === wanted) return callback(null, socket as Socket);
      socket?.destroy();
      callback(certificate ? new OtherFingerprintError(certificate) : new Error("no certificate was shown"), null);
    });
  };
}

const plainDigits = (sha256: string) => sha256.replaceAll(":", "").toLowerCase();

/** What the other side shows, believed or not; undefined where it shows nothing in time. */
export async function shownCertificate(
  address: Pick<PullAddress, "host" | "port" | "timeoutMs">,
): Promise<CertificateView | undefined> {
  return (await shownChain(address))?.certificate;
}

/** The certificate that the other side shows, how many certificates it sends, and who stands at the end of them. */
export interface ShownChain {
  readonly certificate: CertificateView;
  readonly length: number;
  readonly root: string;
  /** Whether it says where its issuer's certificate is to be had (RFC 5280 §4.2.2.1). */
  readonly hasIssuerAddress: boolean;
}

/** Old versions and weak keys are spoken to here: what is shown is looked at, not believed. */
export function shownChain({
  host,
  port,
  timeoutMs,
}: Pick<PullAddress, "host" | "port" | "timeoutMs">): Promise<ShownChain | undefined> {
  return new Promise((resolve) => {
    const tcp = connectTcp({ host, port });
    const socket = connectTls({
      socket: tcp,
      rejectUnauthorized: false,
      ciphers: "ALL:@SECLEVEL=0",
      minVersion: "TLSv1",
      ...(isIP(host) === 0 && { servername: host }),
    });
    const end = (found: ShownChain | undefined) => {
      clearTimeout(timer);
      socket.destroy();
      tcp.destroy();
      resolve(found);
    };
    const timer = setTimeout(() => end(undefined), timeoutMs);
    socket.once("secureConnect", () => end(chainOf(socket)));
    socket.once("error", () => end(undefined));
    tcp.once("error", () => end(undefined));
  });
}

/**
 * By which alert the other side ends a connection on which something is asked: TLS 1.3 tells only then that it wants a
 * certificate from us (RFC 8446 §4.4.2.4). Undefined where it tells none.
 */
export function refusalOf({
  host,
  port,
  timeoutMs,
}: Pick<PullAddress, "host" | "port" | "timeoutMs">): Promise<Error | undefined> {
  return new Promise((resolve) => {
    const socket = connectTls(
      { host, port, rejectUnauthorized: false, ...(isIP(host) === 0 && { servername: host }) },
      () => socket.write("OPTIONS * HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n"),
    );
    const end = (error?: Error) => {
      clearTimeout(timer);
      socket.destroy();
      resolve(error);
    };
    const timer = setTimeout(end, timeoutMs);
    socket.once("error", end);
    socket.once("data", () => end());
    socket.once("close", () => end());
  });
}

function chainOf(socket: TLSSocket): ShownChain | undefined {
  const first: DetailedPeerCertificate = socket.getPeerCertificate(true);
  if (!first?.fingerprint256) return undefined;
  let last = first;
  let length = 1;
  while (last.issuerCertificate && last.issuerCertificate.fingerprint256 !== last.fingerprint256 && length < 20) {
    last = last.issuerCertificate;
    length++;
  }
  return {
    certificate: viewOf(first),
    length,
    root: nameOf(last.issuer),
    hasIssuerAddress: first.infoAccess?.["CA Issuers - URI"] !== undefined,
  };
}

/** When the certificate of a connection ends, ms; undefined where there is none. */
export function certificateEndMs(socket: unknown): number | undefined {
  const shown =
    typeof (socket as TLSSocket | null)?.getPeerCertificate === "function"
      ? (socket as TLSSocket).getPeerCertificate()
      : undefined;
  const ms = Date.parse(shown?.valid_to ?? "");
  return Number.isFinite(ms) ? ms : undefined;
}

function certificateOf(socket: TLSSocket): CertificateView | undefined {
  const found: DetailedPeerCertificate = socket.getPeerCertificate(true);
  return found?.fingerprint256 ? viewOf(found) : undefined;
}

function viewOf(certificate: PeerCertificate): CertificateView {
  return {
    sha256: certificate.fingerprint256,
    subject: nameOf(certificate.subject),
    issuer: nameOf(certificate.issuer),
    names: (certificate.subjectaltname ?? "")
      .split(", ")
      .filter((name) => name !== "")
      .map((name) => name.replace(/^(DNS|IP Address):/, "")),
    fromMs: Date.parse(certificate.valid_from),
    untilMs: Date.parse(certificate.valid_to),
  };
}

function nameOf(parts: PeerCertificate["subject"] | undefined): string {
  const one = (text: string | string[] | undefined) => (Array.isArray(text) ? text.join(", ") : text);
  return one(parts?.CN) ?? one(parts?.O) ?? "";
}
