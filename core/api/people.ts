import type { Limits, Role } from "../people/roles.ts";
import { type Nothing, route } from "./route.ts";

export interface Me {
  readonly name: string;
  readonly role: Role;
  /** What a viewer is held to; without it nothing is held back. */
  readonly limits?: Limits | null;
}

export interface NameAndPassword {
  readonly name: string;
  readonly password: string;
}

export interface PersonView {
  readonly id: number;
  readonly name: string;
  readonly role: Role;
  readonly limits: Limits | null;
  readonly createdAtMs: number;
  /** The last use of a session; null where there is none. */
  readonly lastSeenAtMs: number | null;
}

/** What a person is to be. */
export interface PersonBody {
  readonly role: Role;
  readonly limits?: Limits | null;
}

export interface InvitationView {
  readonly id: number;
  readonly role: Role;
  readonly limits: Limits | null;
  readonly by: string;
  /** ISO 8601. */
  readonly until: string;
}

/** The code is in the answer that makes it, and nowhere else. */
export interface NewInvitation extends InvitationView {
  readonly code: string;
  readonly url: string;
  /** Where it was to be sent to a recipient: what came of it, in words; null where that was not asked for. */
  readonly sent: { readonly worked: boolean; readonly answer: string } | null;
}

export interface SessionView {
  readonly id: number;
  /** The browser, in words. */
  readonly device: string;
  /** The address it came from when it signed in. */
  readonly place: string;
  readonly createdAtMs: number;
  readonly lastSeenAtMs: number;
  /** Whether the one who asks uses it. */
  readonly isThis: boolean;
}

/** Whether there is no owner yet, and what is known at the door besides names and passwords. */
export interface SetupView {
  readonly needed: boolean;
  /** What people call the issuer by which they sign in; null where there is none. */
  readonly issuer: string | null;
  /** Whether a proxy before this server says who comes. */
  readonly byProxy: boolean;
}
export const getSetup = route("GET", "/setup")<Nothing, SetupView>();
/** Signs in whom the named proxy before this server says. */
export const signInByProxy = route("POST", "/session/proxy")<Nothing, Me>();
/** Makes the owner, with the code that the start command printed. */
export const setUp = route("POST", "/setup", 201)<NameAndPassword & { readonly code: string }, Me>();
/**
 * Where the person has a second factor, it is asked for: a problem that `asks` for a "code"; where the password was
 * handed to them, one of their own: a problem that `asks` for the "next".
 */
export const signIn = route("POST", "/session")<
  NameAndPassword & { readonly code?: string; readonly next?: string },
  Me
>();
export const signOut = route("DELETE", "/session", 204)();
export const getMe = route("GET", "/me")<Nothing, Me>();

export const listSessions = route("GET", "/me/sessions")<Nothing, readonly SessionView[]>();
/** Ends every session of the one who asks; `but=this` spares the one that asks. */
export const endSessions = route("DELETE", "/me/sessions", 204)<Nothing, Nothing, { readonly but?: "this" }>();
export const endSession = route("DELETE", "/me/sessions/:id", 204)();
/** A change of password ends the person's other sessions. Who has none yet gives the next one alone. */
export const changePassword = route("PUT", "/me/password", 204)<{ readonly now?: string; readonly next: string }>();
/** From here on the person signs in otherwise; the last way in stays. */
export const dropPassword = route("DELETE", "/me/password", 204)();
/** By what a person can sign in, and show again who they are. */
export interface WaysIn {
  readonly hasPassword: boolean;
  /** Of this server's name: others open nothing here. */
  readonly passkeys: number;
  /** An issuer of one's own, and whether the person signs in by it. */
  readonly issuer: { readonly name: string; readonly isLinked: boolean } | null;
}
export const getWaysIn = route("GET", "/me/ways")<Nothing, WaysIn>();
/** Shows again who one is: what makes or shows secrets asks for it every ten minutes. */
export const proveMe = route("POST", "/me/proof", 204)<{ readonly password: string }>();

export interface CodesView {
  readonly isOn: boolean;
  /** Codes for recovery that were not used. */
  readonly recoveryLeft: number;
}

export const getCodes = route("GET", "/me/codes")<Nothing, CodesView>();
/** A new secret (base32) and its address (otpauth), told once; it holds when a code of it was shown. */
export const beginCodes = route("POST", "/me/codes/begin")<
  Nothing,
  { readonly secret: string; readonly uri: string }
>();
/** Has what was begun hold; codes for recovery are in this answer and nowhere else. */
export const confirmCodes = route("POST", "/me/codes")<
  { readonly code: string },
  { readonly recovery: readonly string[] }
>();
export const dropCodes = route("DELETE", "/me/codes", 204)();

export const listPeople = route("GET", "/people")<Nothing, readonly PersonView[]>();
/** Makes a person with a first password. */
export const makePerson = route("POST", "/people", 201)<PersonBody & NameAndPassword, PersonView>();
export const changePerson = route("PATCH", "/people/:id")<Partial<PersonBody>, PersonView>();
export const removePerson = route("DELETE", "/people/:id", 204)();
export const listInvitations = route("GET", "/people/invitations")<Nothing, readonly InvitationView[]>();
export const invitePerson = route("POST", "/people/invitations", 201)<
  PersonBody & { readonly hours?: number; readonly recipient?: number },
  NewInvitation
>();
export const withdrawInvitation = route("DELETE", "/people/invitations/:id", 204)();
/** What an invitation is for, to be shown to whom it was sent. */
export const getInvitation = route("GET", "/invitations/:code")<Nothing, Omit<InvitationView, "id" | "limits">>();
/** Makes the person and signs them in. */
export const acceptInvitation = route("POST", "/invitations/:code/accept", 201)<NameAndPassword, Me>();
