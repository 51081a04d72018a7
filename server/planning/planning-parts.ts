import type { Alerting } from "../alerting/alerting.ts";
import type { Condition } from "../condition/condition.ts";
import type { Database } from "../db/pool.ts";
import type { MachineList } from "../machines/machine-list.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { PushKeys } from "../messages/push-keys.ts";
import type { SecretBox } from "../sources/secret-box.ts";
import type { Store } from "../store/store.ts";
import type { SendingParts } from "./month/month-sending.ts";

interface Around {
  readonly store: Store;
  readonly names: MachineNames;
  readonly database: Database;
  readonly box: SecretBox;
  readonly pushKeys: PushKeys;
  readonly machines: MachineList;
  readonly alerting: Alerting;
  readonly condition: Condition;
  /** The machine that the server runs on. */
  readonly machine: string;
}

/** What planning takes of the other parts. */
export function planningParts({
  store,
  names,
  database,
  box,
  pushKeys,
  machines,
  alerting,
  condition,
  machine,
}: Around): SendingParts {
  return {
    store,
    names,
    database,
    box,
    pushKeys,
    machine,
    costs: condition.costs,
    machines: () => machines.views(Date.now()).map(({ name }) => name),
    address: async () => alerting.address,
  };
}
