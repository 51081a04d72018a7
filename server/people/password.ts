import { hash, verify } from "@node-rs/argon2";
import { commonPasswords } from "./common-passwords.ts";

/** RFC 9106 §4, second recommended option: 64 MiB, three passes, four lanes; 2 is Argon2id. */
const argon = { algorithm: 2, memoryCost: 65_536, timeCost: 3, parallelism: 4 } as const;
const fewestCharacters = 12;
const mostCharacters = 200;

export const hashPassword = (password: string): Promise<string> => hash(password.normalize("NFKC"), argon);

export const isPassword = (password: string, hashed: string): Promise<boolean> => verify(hashed, password.normalize("NFKC"));

/** What is wrong with a new password, as a sentence; undefined where it will do. Rules: OWASP ASVS 4.0 §2.1 (length, common ones refused, no rules about kinds of characters). */
export function passwordProblem(password: string, name: string): string | undefined {
  const characters = [...password.normalize("NFKC")].length;
  if (characters < fewestCharacters) return `The password has ${characters} characters; it needs ${fewestCharacters} or more. Four unrelated words do well.`;
  if (characters > mostCharacters) return `The password has ${characters} characters; ${mostCharacters} is the most.`;
  const plain = password.toLowerCase();
  if (commonPasswords.has(plain)) return "This password is among the most common ones and would be guessed at once. Take another.";
  if (new Set(plain).size < 5) return "This password repeats very few characters. Take another.";
  if (name.length >= 3 && plain.replaceAll(/[^\p{L}]/gu, "") === name.toLowerCase()) return "This password is your name with figures. Take another.";
  return undefined;
}

/** Verified when no such account exists, so that an answer takes as long and tells nothing. */
export const noAccountHash: Promise<string> = hashPassword("no account has this password");
