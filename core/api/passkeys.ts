import type { Me } from "./people.ts";
import { type Nothing, route } from "./route.ts";

// Ceremonies of WebAuthn (W3C, level 3). What the browser is told and answers is that standard's JSON: the server makes
// and checks it, the browser's own code reads it.

/** PublicKeyCredentialCreationOptionsJSON (§5.1.8) or PublicKeyCredentialRequestOptionsJSON (§5.1.9). */
export type CeremonyOptions = Readonly<Record<string, unknown>>;
/** RegistrationResponseJSON or AuthenticationResponseJSON (§5.1). */
export type CeremonyResponse = Readonly<Record<string, unknown>>;

export interface PasskeyView {
  readonly id: number;
  readonly name: string;
  /** The name of the server that it opens: a passkey is for one. */
  readonly host: string;
  readonly createdAtMs: number;
  readonly lastUsedAtMs: number | null;
  /** Whether whoever keeps it keeps a copy elsewhere, as makers of phones do. */
  readonly isBackedUp: boolean;
}

export const listPasskeys = route("GET", "/me/passkeys")<Nothing, readonly PasskeyView[]>();
export const beginPasskey = route("POST", "/me/passkeys/begin")<Nothing, { readonly options: CeremonyOptions }>();
export const addPasskey = route("POST", "/me/passkeys", 201)<
  { readonly name: string; readonly response: CeremonyResponse },
  PasskeyView
>();
export const removePasskey = route("DELETE", "/me/passkeys/:id", 204)();
export const beginPasskeySignIn = route("POST", "/session/passkey/begin")<
  Nothing,
  { readonly options: CeremonyOptions }
>();
/** It is two factors in one: no code is asked for besides. */
export const signInByPasskey = route("POST", "/session/passkey")<{ readonly response: CeremonyResponse }, Me>();
export const beginPasskeyProof = route("POST", "/me/proof/passkey/begin")<
  Nothing,
  { readonly options: CeremonyOptions }
>();
export const proveByPasskey = route("POST", "/me/proof/passkey", 204)<{ readonly response: CeremonyResponse }>();
