import { type Nothing, route } from "./route.ts";

export interface Me {
  readonly name: string;
  readonly role: "owner";
}

export interface NameAndPassword {
  readonly name: string;
  readonly password: string;
}

/** Whether there is no owner yet. */
export const getSetup = route("GET", "/setup")<Nothing, { readonly needed: boolean }>();
/** Makes the owner, with the code that the start command printed. */
export const setUp = route("POST", "/setup", 201)<NameAndPassword & { readonly code: string }, Me>();
export const signIn = route("POST", "/session")<NameAndPassword, Me>();
export const signOut = route("DELETE", "/session", 204)();
export const getMe = route("GET", "/me")<Nothing, Me>();
