/**
 * What a person may do here. owner: everything, people and tokens among it. keeper: sources, rules and dashboards.
 * viewer: looks, and keeps stars, window and theme of their own.
 */
export const roles = ["owner", "keeper", "viewer"] as const;
export type Role = (typeof roles)[number];

/** What a viewer is held to: nothing else can be read. What is left out of it holds nothing back. */
export interface Limits {
  /** Machines by name. */
  readonly machines?: readonly string[];
  /** Machines that carry one of these values. */
  readonly tags?: readonly { readonly tag: string; readonly is: readonly string[] }[];
  /** Dashboards by number. Whoever is held to these alone reads what stands on them. */
  readonly dashboards?: readonly number[];
}

/** Each role in words. */
export const roleWords: Readonly<Record<Role, { readonly as: string; readonly may: string; readonly does: string }>> = {
  owner: {
    as: "an owner",
    may: "you may do everything, people and tokens among it",
    does: "does everything, people and tokens among it",
  },
  keeper: {
    as: "a keeper",
    may: "you look after sources, rules and dashboards",
    does: "looks after sources, rules and dashboards",
  },
  viewer: { as: "a viewer", may: "you look, and change nothing", does: "looks, and changes nothing" },
};
