import type { Role } from "./roles.ts";

/** Which values of a claim make somebody what; the first role that fits, owners first. */
export interface ClaimRoles {
  /** The claim's name; a claim inside another is told by a path with dots. */
  readonly claim: string;
  readonly owner: readonly string[];
  readonly keeper: readonly string[];
  readonly viewer: readonly string[];
  /** What everybody else is; null where they stay out. */
  readonly others: Exclude<Role, "owner"> | null;
}

/** What somebody is by what their issuer says of them; undefined where they stay out. */
export function roleByClaim(claims: Readonly<Record<string, unknown>>, roles: ClaimRoles): Role | undefined {
  const values = valuesOf(claims[roles.claim] ?? inside(claims, roles.claim));
  const fits = (wanted: readonly string[]) => wanted.some((one) => values.includes(one));
  for (const role of ["owner", "keeper", "viewer"] as const) if (fits(roles[role])) return role;
  return roles.others ?? undefined;
}

const valuesOf = (value: unknown): readonly string[] =>
  (Array.isArray(value) ? value : [value]).filter((one): one is string => typeof one === "string");

function inside(claims: unknown, path: string): unknown {
  return path
    .split(".")
    .reduce<unknown>(
      (value, name) =>
        typeof value === "object" && value !== null && Object.hasOwn(value, name)
          ? (value as Record<string, unknown>)[name]
          : undefined,
      claims,
    );
}

const longestName = 64;
/** Signs that are not seen, turn others round or are half of one: two names would look alike, or cannot be stored. */
const unseen = /\p{C}/gu;

/**
 * What somebody is called by what their issuer says (OpenID Connect Core 1.0, §5.1); their subject where it says
 * nothing.
 */
export function nameByClaims(claims: Readonly<Record<string, unknown>>): string {
  const { preferred_username, name, email, sub } = claims;
  const told = [preferred_username, name, typeof email === "string" ? email.split("@")[0] : undefined, sub];
  const plain = told.map((one) => (typeof one === "string" ? one.replace(unseen, "").trim() : ""));
  // A sign of two halves may be cut in two.
  return (plain.find((one) => one !== "") ?? "somebody").slice(0, longestName).replace(unseen, "");
}
