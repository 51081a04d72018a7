import { existsSync } from "node:fs";
import { errors } from "undici";
import { TextError } from "../../../core/formats/samples/sample-format.ts";
import type { PullAddress } from "../../../core/sources/source.ts";
import { PullError } from "./pull-error.ts";
import { OtherFingerprintError, shownCertificate } from "./trusting-connector.ts";

/** Codes by which OpenSSL and Node.js tell what is wrong with a certificate. */
const unknownIssuer = new Set(["DEPTH_ZERO_SELF_SIGNED_CERT", "SELF_SIGNED_CERT_IN_CHAIN", "UNABLE_TO_VERIFY_LEAF_SIGNATURE", "UNABLE_TO_GET_ISSUER_CERT", "UNABLE_TO_GET_ISSUER_CERT_LOCALLY", "CERT_UNTRUSTED", "CERT_SIGNATURE_FAILURE"]);

/** How far asking had come. */
export type AskingPhase = "connecting" | "connected" | "answering";

/** Says what went wrong while an address was asked, and what to do about it. */
export async function diagnose(error: unknown, address: PullAddress, phase: AskingPhase = "connecting"): Promise<PullError> {
  if (error instanceof PullError) return error;
  const place = `${address.host}:${address.port}`;
  const code = codeOf(error);
  const make = (kind: PullError["kind"], words: string, remedy: string) => new PullError(kind, words, remedy, { cause: error });
  if (error instanceof TextError) return make("not the format", `What came is no such page: ${error.message}.`, "Look at the text as received. The path may be another, often /metrics.");
  if (error instanceof OtherFingerprintError) {
    return new PullError("other fingerprint", `The certificate is another than the one you pinned: its fingerprint is ${error.certificate.sha256}.`, "If the machine has got a new certificate, compare this fingerprint on the machine itself and pin it. If not, somebody may stand between.", { certificate: error.certificate, cause: error });
  }
  if (unknownIssuer.has(code)) {
    return withCertificate(address, "unknown issuer", "Nobody that this machine trusts has issued the certificate.", "Compare the fingerprint with the one on the machine itself and pin it, or paste the issuer's certificate.", error);
  }
  switch (code) {
    case "ECONNREFUSED":
      return make("nothing listens", `Nothing listens at ${place}.`, `${loopbackHint(address)}Look whether the program runs there, on which port, and whether it listens on more than 127.0.0.1.`);
    case "ENOTFOUND":
      return make("name unknown", `No address is known for the name ${address.host}.`, "Check the spelling, or use the address in numbers.");
    case "EAI_AGAIN":
      return make("name unknown", `The name ${address.host} could not be looked up: the name server does not answer.`, "Use the address in numbers, or look at this machine's name server.");
    case "EHOSTUNREACH":
    case "ENETUNREACH":
    case "EADDRNOTAVAIL":
      return make("no way there", `There is no way to ${address.host} from here.`, "Look whether the machine is on, and whether this machine is in a network that reaches it.");
    case "UND_ERR_CONNECT_TIMEOUT":
    case "ETIMEDOUT":
      return noAnswer("connecting", address, error);
    case "UND_ERR_HEADERS_TIMEOUT":
      return noAnswer("connected", address, error);
    case "UND_ERR_BODY_TIMEOUT":
      return noAnswer("answering", address, error);
    case "ECONNRESET":
    case "EPIPE":
    case "UND_ERR_SOCKET":
      if (phase === "answering") return make("truncated", "The answer was cut off before its end.", "Try again; if it stays, the program there fails while it writes.");
      if (address.scheme === "http" && (await shownCertificate(address))) return make("TLS wanted", `${place} speaks TLS.`, "Use https instead of http.");
      return make("reset", `${place} closed the connection instead of answering.`, "Something there turns this machine away, or speaks another protocol. Look at its list of allowed addresses.");
    case "UND_ERR_RES_CONTENT_LENGTH_MISMATCH":
    case "UND_ERR_ABORTED":
      return make("truncated", "The answer was cut off before its end.", "Try again; if it stays, the program there fails while it writes.");
    case "ERR_TLS_CERT_ALTNAME_INVALID":
      return withCertificate(address, "wrong name", `The certificate does not cover ${address.host}.`, "Use a name or address that it covers, or pin its fingerprint.", error);
    case "CERT_HAS_EXPIRED":
      return withCertificate(address, "expired", "The certificate has expired.", "Renew it on the machine. Until then you can pin its fingerprint.", error);
    case "CERT_NOT_YET_VALID":
      return withCertificate(address, "not yet valid", "The certificate is not valid yet.", "Compare the clocks of the two machines.", error);
    case "EPROTO":
    case "ERR_SSL_WRONG_VERSION_NUMBER":
    case "ERR_SSL_PACKET_LENGTH_TOO_LONG":
    case "ERR_SSL_TLSV1_ALERT_INTERNAL_ERROR":
      return make("not TLS", `${place} does not speak TLS.`, "Use http instead of https, or the port on which it speaks TLS.");
  }
  if (error instanceof errors.HTTPParserError || code.startsWith("HPE_")) {
    if (address.scheme === "http" && (await shownCertificate(address))) return make("TLS wanted", `${place} speaks TLS.`, "Use https instead of http.");
    return make("not the format", `What ${place} answers is not HTTP.`, "Another program listens on this port. Look which port the page is on.");
  }
  if (code === "ABORT_ERR" || code === "UND_ERR_ABORT" || (error as Error)?.name === "TimeoutError") return noAnswer(phase, address, error);
  if (code.startsWith("ERR_SSL") || code.startsWith("ERR_TLS")) return make("not TLS", `No secure connection came about: ${(error as Error).message}.`, "The other side may speak only old versions of TLS, or want a certificate from us.");
  return make("failed", `Asking failed: ${(error as Error)?.message ?? String(error)}.`, "Try again; the server's log has more.");
}

/** What it is when time is up, by how far asking had come. */
function noAnswer(phase: AskingPhase, address: PullAddress, cause: unknown): PullError {
  const place = `${address.host}:${address.port}`;
  switch (phase) {
    case "connecting":
      return new PullError("no answer", `${place} did not answer within ${seconds(address)}.`, "The machine is off, or a firewall drops what is sent to this port.", { cause });
    case "connected":
      return new PullError("no answer", `${place} took the connection and did not answer within ${seconds(address)}.`, "Another program may listen there, or the machine is busy. Raise the time-out if it is just slow.", { cause });
    case "answering":
      return new PullError("too slow", `The answer had not ended after ${seconds(address)}.`, "Raise the time-out, or leave out what makes the page long.", { cause });
  }
}

/** What an answer's status means where it is not success. */
export function statusError(status: number, location: string | undefined, address: PullAddress): PullError {
  const asked = `${address.scheme}://${address.host}:${address.port}${address.path}`;
  if (status >= 300 && status < 400) return new PullError("redirect", `It sends us on${location ? ` to ${location.slice(0, 200)}` : ""} (${status}). Redirects are not followed.`, "Enter the address that it names, if you trust it.");
  if (status === 401) return new PullError("wrong credentials", "It does not accept the name and password, or the token (401).", "Enter them again; look on the machine which ones are allowed.");
  if (status === 403) return new PullError("not allowed", "It knows who asks and refuses (403).", "Look at its list of allowed addresses, and at what this account may read.");
  if (status === 404) return new PullError("wrong path", `There is nothing at ${address.path} (404).`, "Look which path the page has, often /metrics.");
  return new PullError("refused", `${asked} answered ${status}.`, status >= 500 ? "The program there has failed; its log says why." : "Look at the text as received.");
}

function codeOf(error: unknown): string {
  for (let one = error as { code?: unknown; cause?: unknown } | undefined, depth = 0; one && depth < 4; one = one.cause as typeof one, depth++) {
    if (typeof one.code === "string") {
      const first = (one as { errors?: readonly { code?: unknown }[] }).errors?.[0]?.code;
      return typeof first === "string" ? first : one.code;
    }
  }
  return "";
}

async function withCertificate(address: PullAddress, kind: PullError["kind"], words: string, remedy: string, cause: unknown): Promise<PullError> {
  const certificate = await shownCertificate(address);
  const covers = kind === "wrong name" && certificate ? ` It covers ${certificate.names.slice(0, 8).join(", ") || "no name"}.` : "";
  const dates = certificate && (kind === "expired" || kind === "not yet valid") ? ` It is valid from ${day(certificate.fromMs)} to ${day(certificate.untilMs)}.` : "";
  return new PullError(kind, words + covers + dates, remedy, { certificate, cause });
}

const day = (ms: number) => (Number.isFinite(ms) ? new Date(ms).toISOString().slice(0, 10) : "?");
const seconds = ({ timeoutMs }: PullAddress) => `${timeoutMs / 1000} s`;

/** In a container 127.0.0.1 is the container itself. */
function loopbackHint({ host }: PullAddress): string {
  if (!/^(localhost|127\.\d+\.\d+\.\d+|::1|\[::1\])$/.test(host)) return "";
  return inContainer() ? `Nubrel runs in a container, and ${host} is the container itself: use the host's own address. ` : "";
}

/** The marks that container engines leave in a container's own file system. */
function inContainer(): boolean {
  return ["/.dockerenv", "/run/.containerenv"].some((file) => existsSync(file));
}
