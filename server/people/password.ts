import { hash, verify } from "@node-rs/argon2";

/** RFC 9106 §4, second recommended option: 64 MiB, three passes, four lanes; 2 is Argon2id. */
const argon = { algorithm: 2, memoryCost: 65_536, timeCost: 3, parallelism: 4 } as const;
const fewestCharacters = 12;
const mostCharacters = 200;

export const hashPassword = (password: string): Promise<string> => hash(password.normalize("NFKC"), argon);

export const isPassword = (password: string, hashed: string): Promise<boolean> =>
  verify(hashed, password.normalize("NFKC"));

/** Words of our own that are tried first here. */
const ownWords = ["nubrel", "monitoring", "administrator", "raspberrypi", "homeassistant", "changeme", "letmein"];

/**
 * What is wrong with a new password, as a sentence; undefined where it will do. Rules: OWASP ASVS 4.0 §2.1 (length,
 * common ones refused, no rules about kinds of characters). `names` are
 * those in use here: of the account, of others, of machines.
 */
export async function passwordProblem(password: string, names: readonly string[]): Promise<string | undefined> {
  const characters = [...password.normalize("NFKC")].length;
  if (characters < fewestCharacters)
    return `The password has ${characters} characters; it needs ${fewestCharacters} or more. Four unrelated words do well.`;
  if (characters > mostCharacters) return `The password has ${characters} characters; ${mostCharacters} is the most.`;
  const plain = password.toLowerCase();
  const common = await commonPasswords();
  // Figures and signs at the end are tried by everybody who guesses.
  const stem = plain.replace(/[^\p{L}]+$/u, "");
  if (
    common.has(plain) ||
    (stem.length >= 4 && stem.length < plain.length && common.has(stem)) ||
    isRepeated(plain, common)
  )
    return "This password is among the most common ones and would be guessed at once. Take another.";
  if (new Set(plain).size < 5) return "This password repeats very few characters. Take another.";
  const letters = plain.replaceAll(/[^\p{L}]/gu, "");
  const name = [...names, ...ownWords].find(
    (one) => one.length >= 3 && [letters, plain].includes(one.toLowerCase().replaceAll(/[^\p{L}]/gu, "")),
  );
  if (name !== undefined)
    return `This password is a name that is in use here (${name}), with figures at the most. Take another.`;
  return undefined;
}

/** Whether a text is a common one two or more times over. */
function isRepeated(text: string, common: ReadonlySet<string>): boolean {
  for (let length = 3; length <= text.length / 2; length++)
    if (
      text.length % length === 0 &&
      text === text.slice(0, length).repeat(text.length / length) &&
      common.has(text.slice(0, length))
    )
      return true;
  return false;
}

let known: Promise<ReadonlySet<string>> | undefined;

/** Some fifty thousand, read when they are first needed. */
export function commonPasswords(): Promise<ReadonlySet<string>> {
  known ??= import("@zxcvbn-ts/language-common").then(
    ({ dictionary }) => new Set(dictionary["passwords-common"] as string[]),
  );
  return known;
}

/** Verified when no such account exists, so that an answer takes as long and tells nothing. */
export const noAccountHash: Promise<string> = hashPassword("no account has this password");
