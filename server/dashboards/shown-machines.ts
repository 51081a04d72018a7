import type { Dashboard } from "../../core/dashboards/dashboard.ts";
import type { Tags } from "../../core/counters/counter.ts";
import { shownCounters } from "./shown-counters.ts";

interface MachinesParts {
  readonly store: { readonly series: { ofCounter(name: string): readonly { readonly tags: Tags }[] } };
  readonly names: { tagsWith(tags: Tags): Tags };
}

/** Names of the machines whose series stand on a dashboard. */
export function shownMachines({ store, names }: MachinesParts, document: Dashboard): ReadonlySet<string> {
  const { counters, offers } = shownCounters([document]);
  return new Set(
    [...counters].flatMap((counter) =>
      store.series
        .ofCounter(counter)
        .filter(({ tags }) => offers(counter, names.tagsWith(tags)))
        .flatMap(({ tags }) => tags["machine"] ?? []),
    ),
  );
}
