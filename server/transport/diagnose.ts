import { isContained } from "./contained.ts";
import { X509Certificate } from "node:crypto";
import { errors } from "undici";
import { TextError } from "../../core/pages/text-error.ts";
import type { PullAddress, Trust } from "../../core/sources/source.ts";
import { type CertificateFault, certificateFault } from "./certificate-faults.ts";
import { PullError } from "./pull-error.ts";
import { OtherFingerprintError, refusalOf, shownCertificate, shownChain } from "./trusting-connector.ts";

/** What undici takes of headers by itself. */
const mostHeaders = 16_384;

/** How far asking had come. */
export type AskingPhase = "connecting" | "connected" | "answering";

/** Says what went wrong while an address was asked, and what to do about it. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of what can be wrong
export async function diagnose(
  error: unknown,
  address: PullAddress,
  phase: AskingPhase = "connecting",
  trust: Trust = { kind: "system" },
): Promise<PullError> {
  if (error instanceof PullError) return error;
  const place = `${address.host}:${address.port}`;
  const code = codeOf(error);
  const make = (kind: PullError["kind"], words: string, remedy: string) =>
    new PullError(kind, words, remedy, { cause: error });
  if (error instanceof TextError)
    return make(
      "not the format",
      `What came is no such page: ${error.message}.`,
      "Look at the text as received. The path may be another, often /metrics.",
    );
  if (error instanceof OtherFingerprintError) {
    return new PullError(
      "other fingerprint",
      `The certificate is another than the one you pinned: its fingerprint is ${error.certificate.sha256}.`,
      "If the machine has got a new certificate, compare this fingerprint on the machine itself and pin it. If not, somebody may stand between.",
      { certificate: error.certificate, cause: error },
    );
  }
  const fault = certificateFault(error);
  if (fault)
    return fault.isShown ? withCertificate(address, fault, error, trust) : make(fault.kind, fault.words, fault.remedy);
  switch (code) {
    case "ECONNREFUSED":
      return make(
        "nothing listens",
        `Nothing listens at ${place}.`,
        `${loopbackHint(address)}Look whether the program runs there, on which port, and whether it listens on more than 127.0.0.1.`,
      );
    case "ENOTFOUND":
      return make(
        "name unknown",
        `No address is known for the name ${address.host}.`,
        "Check the spelling, or use the address in numbers.",
      );
    case "EAI_AGAIN":
      return make(
        "name unknown",
        `The name ${address.host} could not be looked up: the name server does not answer.`,
        "Use the address in numbers, or look at this machine's name server.",
      );
    case "EHOSTUNREACH":
    case "ENETUNREACH":
    case "EADDRNOTAVAIL":
      return make(
        "no way there",
        `There is no way to ${address.host} from here.`,
        "Look whether the machine is on, and whether this machine is in a network that reaches it.",
      );
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
      if (phase === "answering")
        return make(
          "truncated",
          "The answer was cut off before its end.",
          "The program there fails while it writes, or something on the way ends connections: its own log says why.",
        );
      if (address.scheme === "http" && (await shownCertificate(address)))
        return make("TLS wanted", `${place} speaks TLS.`, "Use https instead of http.");
      if (address.scheme === "https") {
        const refusal = certificateFault(await refusalOf(address));
        if (refusal) return make(refusal.kind, refusal.words, refusal.remedy);
      }
      return make(
        "reset",
        `${place} closed the connection instead of answering.`,
        "Something there turns this machine away, or speaks another protocol. Look at its list of allowed addresses.",
      );
    case "UND_ERR_RES_CONTENT_LENGTH_MISMATCH":
    case "UND_ERR_ABORTED":
      return make(
        "truncated",
        "The answer was cut off before its end.",
        "The program there fails while it writes, or something on the way ends connections: its own log says why.",
      );
    case "UND_ERR_HEADERS_OVERFLOW":
    case "HPE_HEADER_OVERFLOW":
      return make(
        "too large",
        `${place} answers with headers longer than ${mostHeaders / 1024} KiB.`,
        "Look what a proxy before it adds; a page of counters needs hardly any headers.",
      );
    case "EPROTO":
    case "ERR_SSL_WRONG_VERSION_NUMBER":
    case "ERR_SSL_PACKET_LENGTH_TOO_LONG":
    case "ERR_SSL_TLSV1_ALERT_INTERNAL_ERROR":
      return make(
        "not TLS",
        `${place} does not speak TLS.`,
        "Use http instead of https, or the port on which it speaks TLS.",
      );
  }
  if (error instanceof errors.HTTPParserError || code.startsWith("HPE_")) {
    if (address.scheme === "http" && (await shownCertificate(address)))
      return make("TLS wanted", `${place} speaks TLS.`, "Use https instead of http.");
    return make(
      "not the format",
      `What ${place} answers is not HTTP.`,
      "Another program listens on this port. Look which port the page is on.",
    );
  }
  if (code === "ABORT_ERR" || code === "UND_ERR_ABORT" || (error as Error)?.name === "TimeoutError")
    return noAnswer(phase, address, error);
  if (code.startsWith("ERR_SSL") || code.startsWith("ERR_TLS"))
    return make(
      "no common ground",
      `No secure connection to ${place} came about. What its library said: ${(error as Error).message}.`,
      "Look there which versions and ciphers of TLS are allowed, and whether it wants a client's certificate, which Nubrel has none of.",
    );
  return make(
    "failed",
    `Asking ${place} failed in a way that nobody has described yet: ${(error as Error)?.message ?? String(error)}.`,
    `Ask it from this machine by other means, for example: curl -v ${address.scheme}://${place}${address.path}. If that works, the log of Nubrel has more.`,
  );
}

/** What it is when time is up, by how far asking had come. */
function noAnswer(phase: AskingPhase, address: PullAddress, cause: unknown): PullError {
  const place = `${address.host}:${address.port}`;
  switch (phase) {
    case "connecting":
      return new PullError(
        "no answer",
        `${place} did not answer within ${seconds(address)}.`,
        "The machine is off, or a firewall drops what is sent to this port.",
        { cause },
      );
    case "connected":
      return new PullError(
        "no answer",
        `${place} took the connection and did not answer within ${seconds(address)}.`,
        "Another program may listen there, or the machine is busy. Raise the time-out if it is just slow.",
        { cause },
      );
    case "answering":
      return new PullError(
        "too slow",
        `The answer had not ended after ${seconds(address)}.`,
        "Raise the time-out, or leave out what makes the page long.",
        { cause },
      );
  }
}

/** What an answer's status means where it is not success. */
export function statusError(
  status: number,
  location: string | undefined,
  address: PullAddress,
  hasCredentials = true,
): PullError {
  const asked = `${address.scheme}://${address.host}:${address.port}${address.path}`;
  if (status >= 300 && status < 400)
    return new PullError(
      "redirect",
      `It sends us on${location ? ` to ${location.slice(0, 200)}` : ""} (${status}). Redirects are not followed.`,
      "Enter the address that it names, if you trust it.",
    );
  if (status === 401 && !hasCredentials)
    return new PullError(
      "credentials wanted",
      "It wants to know who asks, and no name and password or token was given (401).",
      "Enter the name and password, or the token, that the machine knows.",
    );
  if (status === 401)
    return new PullError(
      "wrong credentials",
      "It does not accept the name and password, or the token (401).",
      "Enter them again; look on the machine which ones are allowed.",
    );
  if (status === 403)
    return new PullError(
      "not allowed",
      "It knows who asks and refuses (403).",
      "Look at its list of allowed addresses, and at what this account may read.",
    );
  if (status === 404)
    return new PullError(
      "wrong path",
      `There is nothing at ${address.path} (404).`,
      "Look which path the page has, often /metrics.",
    );
  return new PullError(
    "refused",
    `${asked} answered ${status}.`,
    status >= 500 ? "The program there has failed; its log says why." : "Look at the text as received.",
  );
}

function codeOf(error: unknown): string {
  for (
    let one = error as { code?: unknown; cause?: unknown } | undefined, depth = 0;
    one && depth < 4;
    one = one.cause as typeof one, depth++
  ) {
    if (typeof one.code === "string") {
      const first = (one as { errors?: readonly { code?: unknown }[] }).errors?.[0]?.code;
      return typeof first === "string" ? first : one.code;
    }
  }
  return "";
}

async function withCertificate(
  address: PullAddress,
  { kind, words, remedy }: CertificateFault,
  cause: unknown,
  trust: Trust,
): Promise<PullError> {
  const shown = await shownChain(address);
  const certificate = shown?.certificate;
  if (!shown || !certificate) return new PullError(kind, words, remedy, { cause });
  if (kind === "wrong name")
    return new PullError(
      kind,
      `The certificate does not cover ${address.host}. It covers ${certificate.names.slice(0, 8).join(", ") || "no name"}.`,
      remedy,
      { certificate, cause },
    );
  const dates =
    kind === "expired" || kind === "not yet valid"
      ? ` It is valid from ${day(certificate.fromMs)} to ${day(certificate.untilMs)}.`
      : "";
  // With an issuer pasted, the library says the same of another issuer and of one that is missing in between: who has
  // issued it tells.
  if (kind === "missing intermediate" || kind === "unknown issuer") {
    const pasted = trust.kind === "issuer" ? pastedSubject(trust.pem) : undefined;
    const isAlone = shown.length === 1 && certificate.issuer !== certificate.subject;
    if (pasted !== undefined && pasted === certificate.issuer)
      return new PullError(
        "unknown issuer",
        `The certificate says that ${quoted(pasted)} has issued it, but its signature is not that of the issuer pasted.`,
        "Paste the issuer's certificate as it is now: it may have been made anew under the same name.",
        { certificate, cause },
      );
    // Who issues through intermediates says in the certificate where those are to be had; one's own root has none to
    // send.
    if (isAlone && pasted === undefined && !shown.hasIssuerAddress)
      return new PullError(
        "unknown issuer",
        `Nobody that is trusted here has issued the certificate: it comes from ${quoted(certificate.issuer)}, which is neither sent along nor known here.`,
        `Compare the fingerprint with the one on the machine itself and pin it, or paste the certificate of ${quoted(certificate.issuer)}.`,
        { certificate, cause },
      );
    if (isAlone) {
      const between = `It says that ${quoted(certificate.issuer)} has issued it, and that one is neither sent along nor ${pasted === undefined ? "known here" : `the one pasted, ${quoted(pasted)}`}.`;
      return new PullError(
        "missing intermediate",
        `The other side shows its own certificate alone. ${between}`,
        `Have it send the whole chain, with the intermediate certificate; or paste that of ${quoted(certificate.issuer)} as the issuer. Or compare the fingerprint with the one on the machine itself and pin it.`,
        { certificate, cause },
      );
    }
    return new PullError(
      "unknown issuer",
      `Nobody that is trusted here has issued the certificate: it comes from ${quoted(shown.root)}${pasted === undefined ? "" : `, and pasted was ${quoted(pasted)}`}.`,
      "Compare the fingerprint with the one on the machine itself and pin it, or paste the issuer's certificate.",
      { certificate, cause },
    );
  }
  return new PullError(kind, words + dates, remedy, { certificate, cause });
}

const quoted = (name: string) => JSON.stringify(name || "nobody");

function pastedSubject(pem: string): string | undefined {
  try {
    const { subject } = new X509Certificate(pem);
    return /^CN=(.*)$/m.exec(subject)?.[1] ?? /^O=(.*)$/m.exec(subject)?.[1] ?? subject;
  } catch {
    return undefined;
  }
}

const day = (ms: number) => (Number.isFinite(ms) ? new Date(ms).toISOString().slice(0, 10) : "?");
const seconds = ({ timeoutMs }: PullAddress) => `${timeoutMs / 1000} s`;

/** In a container 127.0.0.1 is the container itself. */
function loopbackHint({ host }: PullAddress): string {
  if (!/^(localhost|127\.\d+\.\d+\.\d+|::1|\[::1\])$/.test(host)) return "";
  return isContained()
    ? `Nubrel runs in a container, and ${host} is the container itself: use the host's own address. `
    : "";
}
