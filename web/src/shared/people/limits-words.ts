import type { Limits } from "../../../../core/people/roles.ts";

/** What a viewer sees, in words: "lamp, machines with site quay, 2 dashboards". */
export function limitsWords({ machines = [], tags = [], dashboards = [] }: Limits): string {
  return [
    ...(machines.length > 0 ? [machines.join(", ")] : []),
    ...tags.map(({ tag, is }) => `machines with ${tag} ${is.join(" or ")}`),
    ...(dashboards.length > 0 ? [dashboards.length === 1 ? "one dashboard" : `${dashboards.length} dashboards`] : []),
  ].join(", ");
}
