import { createHash, X509Certificate } from "node:crypto";
import { readFileSync, statSync } from "node:fs";
import { createServer as createHttpServer, type RequestListener, type Server as HttpServer } from "node:http";
import { createServer as createHttpsServer, type Server as HttpsServer } from "node:https";
import { createSecureContext } from "node:tls";
import type { Logger } from "pino";
import type { TransportView } from "../../core/api/transport.ts";
import { type Config, ConfigError } from "../config.ts";
import { isContained } from "./contained.ts";
import { House, namesOf, ownNames, reachableNames } from "./house.ts";
import type { KeyPair } from "./issue-certificate.ts";
import { isLoopback } from "../http/loopback.ts";
import { type OnePort, onePort } from "./one-port.ts";

/** Files of a given certificate are looked at, and names of the machine, this often. */
const lookEveryMs = 10_000;
const dayMs = 86_400_000;
/** A given certificate that ends within this is told about; the house's own are renewed long before. */
const soonMs = 21 * dayMs;

/**
 * How long a connection may take over its request's head and its body, and how often that is looked at; the same in
 * clear text and over TLS.
 */
const patience = {
  headersTimeout: 15_000,
  requestTimeout: 300_000,
  keepAliveTimeout: 15_000,
  connectionsCheckingInterval: 5000,
} as const;
const handshakeMs = 10_000;
/** Connections at the same time; a page has one or two, a sender one. */
const mostConnections = 2000;
/**
 * TLS 1.3, and of TLS 1.2 suites with forward secrecy and authenticated encryption alone (RFC 9325 §4.2): none with
 * CBC.
 */
const suites = {
  minVersion: "TLSv1.2",
  ciphers:
    "TLS_AES_256_GCM_SHA384:TLS_CHACHA20_POLY1305_SHA256:TLS_AES_128_GCM_SHA256:ECDHE-ECDSA-AES256-GCM-SHA384:ECDHE-RSA-AES256-GCM-SHA384:ECDHE-ECDSA-CHACHA20-POLY1305:ECDHE-RSA-CHACHA20-POLY1305:ECDHE-ECDSA-AES128-GCM-SHA256:ECDHE-RSA-AES128-GCM-SHA256",
} as const;

function bounded<T extends { maxConnections: number }>(server: T): T {
  server.maxConnections = mostConnections;
  return server;
}

/** A container's own name and addresses lead nobody to it: there only what a person has said does. */
const namesForOthers = (said: readonly string[]): readonly string[] =>
  said.length > 0 && isContained() ? said : reachableNames(said);

/** How the server speaks: in clear text, or with a certificate that is taken up again when it changes. */
export class Transport {
  readonly #config: Pick<Config, "transport" | "names" | "proxies" | "host" | "port" | "basePath">;
  readonly #log: Logger;
  readonly #house: House | undefined;
  #pair: KeyPair | undefined;
  #changedAtMs = 0;
  #port: number | undefined;
  #server: HttpsServer | undefined;
  #looking: NodeJS.Timeout | undefined;

  private constructor(
    config: Pick<Config, "transport" | "names" | "proxies" | "host" | "port" | "basePath">,
    log: Logger,
  ) {
    this.#config = config;
    this.#log = log;
    this.#house =
      config.transport.kind === "house"
        ? new House(config.transport.folder, (why) =>
            log.warn(
              `The house authority was made anew, as ${why}. Machines and browsers that believed it must be given the new one: Sources, Transport.`,
            ),
          )
        : undefined;
  }

  /** Reads or makes the certificate. Throws ConfigError where a given one cannot be used. */
  static async open(
    config: Pick<Config, "transport" | "names" | "proxies" | "host" | "port" | "basePath">,
    log: Logger,
  ): Promise<Transport> {
    const transport = new Transport(config, log);
    transport.#pair = await transport.#read();
    if (config.transport.kind !== "plain") {
      transport.#looking = setInterval(() => void transport.#look(), lookEveryMs);
      transport.#looking.unref();
    }
    return transport;
  }

  /** Names and addresses that a person added. */
  get names(): readonly string[] {
    return this.#config.names;
  }

  get scheme(): "http" | "https" {
    return this.#pair ? "https" : "http";
  }

  /**
   * The server for an application; with a certificate it also answers clear text on the same port, by sending it to
   * https.
   */
  server(application: RequestListener): HttpServer | OnePort {
    if (!this.#pair) return bounded(createHttpServer(patience, application));
    this.#server = createHttpsServer(
      {
        ...patience,
        ...suites,
        handshakeTimeout: handshakeMs,
        cert: this.#pair.certificatePem,
        key: this.#pair.keyPem,
      },
      application,
    );
    return bounded(onePort(this.#server));
  }

  /** The port that it got, where any would do. */
  listensAt(port: number): void {
    this.#port = port;
  }

  /** By which it is reached on this machine, once it listens. */
  get ownAddress(): string {
    const { host } = this.#config;
    return `${this.scheme}://${host.includes(":") ? `[${host}]` : host}:${this.#port}${this.basePath}`;
  }

  /**
   * What stands in messages and links that others are to follow: the name that people type behind a proxy, else by
   * which other machines reach it, else its own.
   */
  get linkAddress(): string {
    const { proxies, names } = this.#config;
    if (proxies.length > 0 && names[0] !== undefined) return `https://${names[0]}${this.basePath}`;
    return this.reachedAt[0] ?? this.ownAddress;
  }

  /** By which other machines reach it; empty where it listens on this one alone. */
  get reachedAt(): readonly string[] {
    const { isLoopbackOnly, reachedAt } = this.view(Date.now());
    return isLoopbackOnly ? [] : reachedAt;
  }

  /** Below which path it is asked; "" where it has a host of its own. */
  get basePath(): string {
    return this.#config.basePath;
  }

  view(nowMs: number): TransportView {
    const kind = this.#config.transport.kind;
    const isLoopbackOnly = isLoopback(this.#config.host);
    // Who listens for others will do so with a certificate.
    const begin = this.#pair || isLoopbackOnly ? "https" : "http";
    const reachedAt = namesForOthers(this.#config.names).map(
      (name) =>
        `${begin}://${name.includes(":") ? `[${name}]` : name}:${this.#port ?? this.#config.port}${this.basePath}`,
    );
    if (!this.#pair)
      return {
        isLoopbackOnly,
        reachedAt,
        kind: "plain",
        names: [],
        sha256: null,
        pin: null,
        fromMs: null,
        untilMs: null,
        endsSoon: false,
        authorityPem: null,
        authorityEnds: null,
        proxies: this.#config.proxies,
      };
    const certificate = new X509Certificate(this.#pair.certificatePem);
    const untilMs = Date.parse(certificate.validTo);
    return {
      isLoopbackOnly,
      reachedAt,
      kind,
      names: namesOf(certificate),
      sha256: certificate.fingerprint256,
      pin: pinOf(certificate),
      fromMs: Date.parse(certificate.validFrom),
      untilMs,
      endsSoon: untilMs - nowMs < soonMs,
      authorityPem: this.#house?.authorityPem ?? null,
      authorityEnds: this.#house?.authorityEnds(nowMs) ?? null,
      proxies: this.#config.proxies,
    };
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
    return transport.kind === "files"
      ? Math.max(statSync(transport.certificateFile).mtimeMs, statSync(transport.keyFile).mtimeMs)
      : 0;
  }

  /** Takes up a certificate that has changed; one that cannot be used is left, with the one before still in use. */
  async #look(): Promise<void> {
    try {
      if (this.#config.transport.kind === "files" && this.#filesChangedAtMs() === this.#changedAtMs) return;
      const pair = await this.#read();
      if (!pair || pair.certificatePem === this.#pair?.certificatePem) return;
      this.#server?.setSecureContext({ ...suites, cert: pair.certificatePem, key: pair.keyPem });
      this.#pair = pair;
    } catch (error) {
      this.#log.error({ err: error }, "the certificate could not be taken up again; the one before stays in use");
    }
  }
}

/**
 * The pin of a certificate's public key as curl and HTTP know it (RFC 7469 §2.4): SHA-256 of its SubjectPublicKeyInfo,
 * base64.
 */
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
    throw new ConfigError(
      `NUBREL_CERT and NUBREL_KEY cannot be used together: ${(error as Error).message}. The first holds the certificate (PEM, with what leads to its issuer after it), the second its private key.`,
    );
  }
}
