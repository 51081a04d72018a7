import { isIP } from "node:net";
import type {
  AuthenticationResponseJSON,
  PublicKeyCredentialCreationOptionsJSON,
  PublicKeyCredentialRequestOptionsJSON,
  RegistrationResponseJSON,
} from "@simplewebauthn/server";
import type { PasskeyView } from "../../../core/api/passkeys.ts";
import type { Database } from "../../db/pool.ts";
import type { Site } from "../site.ts";
import { Challenges } from "./challenges.ts";
import { findPasskey, insertPasskey, notePasskeyUsed, type Passkey, passkeysAt } from "./passkey-rows.ts";

/** What makes and checks them is large, and needed where somebody has one. */
const library = () => import("@simplewebauthn/server");

/** What a device or browser answered is not taken; the message says why. */
export class PasskeyError extends Error {
  override name = "PasskeyError";
}

interface Person {
  readonly id: number;
  readonly name: string;
  /** What devices call the person by. */
  readonly handle: string;
}

type Transports = PublicKeyCredentialRequestOptionsJSON["allowCredentials"];

/** What a challenge is for: a way in for anybody, or something of one person alone. */
const purposes = {
  add: (accountId: number) => `add ${accountId}`,
  enter: "enter",
  prove: (accountId: number) => `prove ${accountId}`,
};

/**
 * Passkeys, added and shown. The device has to check who holds it (by a finger, a face or a number), so that a passkey
 * stands for two factors: what one has, and what one is or knows.
 */
export class Passkeys {
  readonly #database: Database;
  readonly #challenges = new Challenges();

  constructor(database: Database) {
    this.#database = database;
  }

  /** What a browser makes a passkey by. Throws PasskeyError where the server has no name. */
  async beginAdding(site: Site, person: Person): Promise<PublicKeyCredentialCreationOptionsJSON> {
    assertNamed(site);
    const { generateRegistrationOptions } = await library();
    return await generateRegistrationOptions({
      rpName: "Nubrel",
      rpID: site.host,
      userID: new TextEncoder().encode(person.handle),
      userName: person.name,
      challenge: this.#challenges.make(purposes.add(person.id)),
      attestationType: "none",
      excludeCredentials: await this.#known(site, person.id),
      authenticatorSelection: { residentKey: "required", userVerification: "required" },
    });
  }

  /** Keeps a passkey that was made. Throws PasskeyError. */
  async add(site: Site, accountId: number, name: string, response: object): Promise<PasskeyView> {
    const purpose = purposes.add(accountId);
    const { verifyRegistrationResponse } = await library();
    const { verified, registrationInfo } = await checked(() =>
      verifyRegistrationResponse({
        response: response as RegistrationResponseJSON,
        expectedChallenge: (challenge) => this.#challenges.isOpen(purpose, challenge),
        expectedOrigin: site.origin,
        expectedRPID: site.host,
      }),
    );
    if (!verified || !registrationInfo || !this.#challenges.take(purpose, challengeIn(response)))
      throw new PasskeyError("It was not made for this moment.");
    const { credential, credentialBackedUp } = registrationInfo;
    const kept = await insertPasskey(this.#database, {
      ...{ accountId, name, host: site.host, isBackedUp: credentialBackedUp },
      credentialId: credential.id,
      publicKey: Buffer.from(credential.publicKey),
      counter: credential.counter,
      transports: credential.transports ?? [],
    });
    if (!kept) throw new PasskeyError("It is kept here already.");
    return kept;
  }

  /** What a browser shows a passkey by: any, or those of one person. Throws PasskeyError where the server has no name. */
  async beginShowing(site: Site, accountId?: number): Promise<PublicKeyCredentialRequestOptionsJSON> {
    assertNamed(site);
    const { generateAuthenticationOptions } = await library();
    return await generateAuthenticationOptions({
      rpID: site.host,
      challenge: this.#challenges.make(accountId === undefined ? purposes.enter : purposes.prove(accountId)),
      userVerification: "required",
      ...(accountId !== undefined && { allowCredentials: await this.#known(site, accountId) }),
    });
  }

  /** The passkey that somebody says to have; undefined where it is of nobody here. Nothing is checked yet. */
  async find(site: Site, response: object): Promise<Passkey | undefined> {
    const { id } = response as { id?: unknown };
    return typeof id === "string" ? await findPasskey(this.#database, id, site.host) : undefined;
  }

  /** Takes what was shown for a passkey, of anybody who wants in or of one person. Throws PasskeyError. */
  async show(site: Site, passkey: Passkey, response: object, accountId?: number): Promise<void> {
    if (accountId !== undefined && passkey.accountId !== accountId) throw new PasskeyError("It is somebody else's.");
    const purpose = accountId === undefined ? purposes.enter : purposes.prove(accountId);
    const { verifyAuthenticationResponse } = await library();
    const { verified, authenticationInfo } = await checked(() =>
      verifyAuthenticationResponse({
        response: response as AuthenticationResponseJSON,
        expectedChallenge: (challenge) => this.#challenges.isOpen(purpose, challenge),
        expectedOrigin: site.origin,
        expectedRPID: site.host,
        credential: {
          id: passkey.credentialId,
          publicKey: new Uint8Array(passkey.publicKey),
          counter: passkey.counter,
        },
      }),
    );
    if (!verified || !this.#challenges.take(purpose, challengeIn(response)))
      throw new PasskeyError("It was not shown for this moment, or its signature is not right.");
    await notePasskeyUsed(this.#database, passkey.id, authenticationInfo.newCounter);
  }

  async #known(site: Site, accountId: number): Promise<NonNullable<Transports>> {
    const kept = await passkeysAt(this.#database, accountId, site.host);
    return kept.map(({ credentialId, transports }) => ({
      id: credentialId,
      type: "public-key",
      transports: transports as NonNullable<NonNullable<Transports>[number]["transports"]>,
    }));
  }
}

/** A passkey is for a name (WebAuthn level 3, §5.1.2: the RP ID is a domain). */
function assertNamed({ host }: Site): void {
  if (isIP(host.replace(/^\[|\]$/g, "")) !== 0)
    throw new PasskeyError("Passkeys need a name: open Nubrel by one instead of by an address, over HTTPS.");
}

/** What the library throws is about what came in. */
async function checked<T>(check: () => Promise<T>): Promise<T> {
  try {
    return await check();
  } catch (error) {
    throw new PasskeyError(error instanceof Error ? error.message : "It could not be read.", { cause: error });
  }
}

/** The challenge in what a browser answered, once that was checked. */
function challengeIn(response: object): string {
  const { clientDataJSON } = (response as AuthenticationResponseJSON).response;
  return (JSON.parse(Buffer.from(clientDataJSON, "base64url").toString()) as { challenge: string }).challenge;
}
