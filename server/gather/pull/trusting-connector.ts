import { existsSync, readFileSync, statSync } from "node:fs";
import { connect as connectTcp, isIP, type Socket } from "node:net";
import { connect as connectTls, createSecureContext, type DetailedPeerCertificate, type PeerCertificate, rootCertificates, type SecureContext, type TLSSocket } from "node:tls";
import { buildConnector } from "undici";
import type { CertificateView } from "../../../core/api/views.ts";
import type { PullAddress, Trust } from "../../../core/sources/source.ts";

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
  return buildConnector({ timeout: timeoutMs, maxCachedSessions: 0, ...(trust.kind === "unchecked" && { rejectUnauthorized: false }), ...(trust.kind === "issuer" && { ca: trust.pem }), ...(trust.kind === "system" && { secureContext: systemContext() }) });
}

/** Where systems keep the issuers that they trust, in one file: Debian's and Fedora's families. */
const systemFiles = ["/etc/ssl/certs/ca-certificates.crt", "/etc/pki/tls/certs/ca-bundle.crt"];
/** Issuers that Node.js ships and those of the system, as PEM. */
export function systemIssuers(): string[] {
  const file = systemFiles.find((one) => existsSync(one));
  return [...rootCertificates, ...(file === undefined ? [] : [readFileSync(file, "utf8")])];
}

let system: { readonly context: SecureContext; readonly changedAtMs: number } | undefined;

/** The issuers that Node.js ships and those of the system, which a person may have added to. One context for all sources: to make one takes milliseconds. */
function systemContext(): SecureContext {
  const file = systemFiles.find((one) => existsSync(one));
  const changedAtMs = file === undefined ? 0 : statSync(file).mtimeMs;
  if (system?.changedAtMs !== changedAtMs) system = { context: createSecureContext({ ca: systemIssuers() }), changedAtMs };
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
export function shownCertificate({ host, port, timeoutMs }: Pick<PullAddress, "host" | "port" | "timeoutMs">): Promise<CertificateView | undefined> {
  return new Promise((resolve) => {
    const tcp = connectTcp({ host, port });
    const socket = connectTls({ socket: tcp, rejectUnauthorized: false, ...(isIP(host) === 0 && { servername: host }) });
    const end = (found: CertificateView | undefined) => {
      clearTimeout(timer);
      socket.destroy();
      tcp.destroy();
      resolve(found);
    };
    const timer = setTimeout(() => end(undefined), timeoutMs);
    socket.once("secureConnect", () => end(certificateOf(socket)));
    socket.once("error", () => end(undefined));
    tcp.once("error", () => end(undefined));
  });
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
    names: (certificate.subjectaltname ?? "").split(", ").filter((name) => name !== "").map((name) => name.replace(/^(DNS|IP Address):/, "")),
    fromMs: Date.parse(certificate.valid_from),
    untilMs: Date.parse(certificate.valid_to),
  };
}

function nameOf(parts: PeerCertificate["subject"] | undefined): string {
  const one = (text: string | string[] | undefined) => (Array.isArray(text) ? text.join(", ") : text);
  return one(parts?.CN) ?? one(parts?.O) ?? "";
}

