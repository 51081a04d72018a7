import { createHash, X509Certificate } from "node:crypto";
import { readFileSync, statSync } from "node:fs";
import { createServer as createHttpServer, type RequestListener, type Server as HttpServer } from "node:http";
import { createServer as createHttpsServer, type Server as HttpsServer } from "node:https";
import { createSecureContext } from "node:tls";
import type { Logger } from "pino";
import type { TransportView } from "../../core/api/views.ts";
import { type Config, ConfigError } from "../config.ts";
import { House, namesOf, ownNames } from "./house.ts";
import type { KeyPair } from "./issue-certificate.ts";
import { type OnePort, onePort } from "./one-port.ts";

/** Files of a given certificate are looked at, and names of the machine, this often. */
const lookEveryMs = 10_000;
const dayMs = 86_400_000;
/** A given certificate that ends within this is told about; the house's own are renewed long before. */
const soonMs = 21 * dayMs;

/** How the server speaks: in clear text, or with a certificate that is taken up again when it changes. */
export class Transport {
  readonly #config: Pick<Config, "transport" | "names" | "proxies">;
  readonly #log: Logger;
  readonly #house: House | undefined;
  #pair: KeyPair | undefined;
  #changedAtMs = 0;
  #server: HttpsServer | undefined;
  #looking: NodeJS.Timeout | undefined;

  private constructor(config: Pick<Config, "transport" | "names" | "proxies">, log: Logger) {
    this.#config = config;
    this.#log = log;
    this.#house = config.transport.kind === "house" ? new House(config.transport.folder) : undefined;
  }

  /** Reads or makes the certificate. Throws ConfigError where a given one cannot be used. */
  static async open(config: Pick<Config, "transport" | "names" | "proxies">, log: Logger): Promise<Transport> {
    const transport = new Transport(config, log);
    transport.#pair = await transport.#read();
    if (config.transport.kind !== "plain") {
      transport.#looking = setInterval(() => void transport.#look(), lookEveryMs);
      transport.#looking.unref();
    }
    return transport;
  }

  get scheme(): "http" | "https" {
    return this.#pair ? "https" : "http";
  }

  /** The server for an application; with a certificate it also answers clear text on the same port, by sending it to https. */
  server(application: RequestListener): HttpServer | OnePort {
    if (!this.#pair) return createHttpServer(application);
    this.#server = createHttpsServer({ cert: this.#pair.certificatePem, key: this.#pair.keyPem }, application);
    return onePort(this.#server);
  }

  view(nowMs: number): TransportView {
    const kind = this.#config.transport.kind;
    if (!this.#pair) return { kind: "plain", names: [], sha256: null, pin: null, fromMs: null, untilMs: null, endsSoon: false, authorityPem: null, proxies: this.#config.proxies };
    const certificate = new X509Certificate(this.#pair.certificatePem);
    const untilMs = Date.parse(certificate.validTo);
    return { kind, names: namesOf(certificate), sha256: certificate.fingerprint256, pin: pinOf(certificate), fromMs: Date.parse(certificate.validFrom), untilMs, endsSoon: untilMs - nowMs < soonMs, authorityPem: this.#house?.authorityPem ?? null, proxies: this.#config.proxies };
  }

  close(): void {
    clearInterval(this.#looking);
  }

  async #read(): Promise<KeyPair | undefined> {
    const { transport } = this.#config;
    switch (transport.kind) {
      case "plain":
        return undefined;
      case "house":
        return this.#house?.certificateFor(ownNames(this.#config.names), Date.now());
      case "files":
        return this.#readFiles(transport);
    }
  }

  #readFiles({ certificateFile, keyFile }: Extract<Config["transport"], { kind: "files" }>): KeyPair {
    const pair = readPair(certificateFile, keyFile);
    this.#changedAtMs = this.#filesChangedAtMs();
    return pair;
  }

  #filesChangedAtMs(): number {
    const { transport } = this.#config;
    return transport.kind === "files" ? Math.max(statSync(transport.certificateFile).mtimeMs, statSync(transport.keyFile).mtimeMs) : 0;
  }

  /** Takes up a certificate that has changed; one that cannot be used is left, with the one before still in use. */
  async #look(): Promise<void> {
    try {
      if (this.#config.transport.kind === "files" && this.#filesChangedAtMs() === this.#changedAtMs) return;
      const pair = await this.#read();
      if (!pair || pair.certificatePem === this.#pair?.certificatePem) return;
      this.#server?.setSecureContext({ cert: pair.certificatePem, key: pair.keyPem });
      this.#pair = pair;
    } catch (error) {
      this.#log.error({ err: error }, "the certificate could not be taken up again; the one before stays in use");
    }
  }
}

/** The pin of a certificate's public key as curl and HTTP know it (RFC 7469 §2.4): SHA-256 of its SubjectPublicKeyInfo, base64. */
export function pinOf(certificate: X509Certificate): string {
  const info = certificate.publicKey.export({ type: "spki", format: "der" });
  return `sha256//${createHash("sha256").update(info).digest("base64")}`;
}

function readPair(certificateFile: string, keyFile: string): KeyPair {
  const read = (name: string, file: string) => {
    try {
      return readFileSync(file, "utf8");
    } catch (error) {
      throw new ConfigError(`${name}=${file} cannot be read (${(error as NodeJS.ErrnoException).code}).`);
    }
  };
  const pair = { certificatePem: read("NUBREL_CERT", certificateFile), keyPem: read("NUBREL_KEY", keyFile) };
  try {
    createSecureContext({ cert: pair.certificatePem, key: pair.keyPem });
    return pair;
  } catch (error) {
    throw new ConfigError(`NUBREL_CERT and NUBREL_KEY cannot be used together: ${(error as Error).message}. The first holds the certificate (PEM, with what leads to its issuer after it), the second its private key.`);
  }
}
