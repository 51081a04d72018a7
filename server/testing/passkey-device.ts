import { createHash, generateKeyPairSync, type KeyObject, randomBytes, sign } from "node:crypto";
import { isoCBOR } from "@simplewebauthn/server/helpers";
import type { CeremonyOptions, CeremonyResponse } from "../../core/api/passkeys.ts";

// A device that keeps passkeys, as the standard says what it sends (WebAuthn level 3, §6.1 authenticator data, §6.5
// attested credential data, RFC 9053 keys in COSE). A browser with a device of its own is in e2e/passkeys.test.ts.

/** What is told otherwise than it is. */
export interface Told {
  readonly origin?: string;
  readonly host?: string;
  readonly challenge?: string;
  readonly type?: string;
  /** 1: somebody was there; 4: they were checked; 64: a key is told. */
  readonly flags?: number;
  readonly counter?: number;
}

const flagsOf = { shown: 0b0000_0101, made: 0b0100_0101 };

export class PasskeyDevice {
  readonly id = randomBytes(16).toString("base64url");
  readonly #key: KeyObject;
  readonly #publicKey: Buffer;
  readonly #origin: string;
  handle = "";
  counter = 1;

  constructor(origin: string) {
    this.#origin = origin;
    const { privateKey, publicKey } = generateKeyPairSync("ec", { namedCurve: "P-256" });
    this.#key = privateKey;
    const { x = "", y = "" } = publicKey.export({ format: "jwk" });
    const cose = new Map<number, number | Uint8Array>([
      [1, 2],
      [3, -7],
      [-1, 1],
      [-2, new Uint8Array(Buffer.from(x, "base64url"))],
      [-3, new Uint8Array(Buffer.from(y, "base64url"))],
    ]);
    this.#publicKey = Buffer.from(isoCBOR.encode(cose));
  }

  /** Answers what a browser was told to make a passkey by. */
  made(options: CeremonyOptions, told: Told = {}): CeremonyResponse {
    const { challenge, user } = options as { challenge: string; user: { id: string } };
    this.handle = user.id;
    const id = Buffer.from(this.id, "base64url");
    const length = Buffer.alloc(2);
    length.writeUInt16BE(id.length);
    const credential = Buffer.concat([Buffer.alloc(16), length, id, this.#publicKey]);
    const authData = Buffer.concat([this.#authenticatorData(flagsOf.made, told), credential]);
    const attestation = new Map<string, unknown>([
      ["fmt", "none"],
      ["attStmt", new Map()],
      ["authData", new Uint8Array(authData)],
    ]);
    return {
      ...this.#shape(),
      response: {
        clientDataJSON: this.#clientData("webauthn.create", challenge, told).toString("base64url"),
        attestationObject: Buffer.from(isoCBOR.encode(attestation as never)).toString("base64url"),
        transports: ["internal"],
      },
    };
  }

  /** Answers what a browser was told to show a passkey by. */
  shown(options: CeremonyOptions, told: Told = {}): CeremonyResponse {
    const { challenge } = options as { challenge: string };
    this.counter += 1;
    const clientData = this.#clientData("webauthn.get", challenge, told);
    const authData = this.#authenticatorData(flagsOf.shown, told);
    const signed = Buffer.concat([authData, createHash("sha256").update(clientData).digest()]);
    return {
      ...this.#shape(),
      response: {
        clientDataJSON: clientData.toString("base64url"),
        authenticatorData: authData.toString("base64url"),
        signature: sign("sha256", signed, this.#key).toString("base64url"),
        userHandle: this.handle,
      },
    };
  }

  #shape(): CeremonyResponse {
    return { id: this.id, rawId: this.id, type: "public-key", clientExtensionResults: {} };
  }

  #clientData(type: string, challenge: string, told: Told): Buffer {
    const { origin = this.#origin } = told;
    return Buffer.from(JSON.stringify({ type, challenge, origin, crossOrigin: false, ...told }));
  }

  #authenticatorData(usual: number, { host = new URL(this.#origin).hostname, flags, counter }: Told): Buffer {
    const tail = Buffer.alloc(5);
    tail.writeUInt8(flags ?? usual);
    tail.writeUInt32BE(counter ?? this.counter, 1);
    return Buffer.concat([createHash("sha256").update(host).digest(), tail]);
  }
}
