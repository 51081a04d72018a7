import type { Alerting } from "../alerting/alerting.ts";
import type { Condition } from "../condition/condition.ts";
import type { openGround } from "../ground.ts";
import type { SendingParts } from "./month/month-sending.ts";

interface Around
  extends Pick<Awaited<ReturnType<typeof openGround>>, "store" | "names" | "database" | "box" | "machines"> {
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
    machine,
    costs: condition.costs,
    machines: () => machines.views(Date.now()).map(({ name }) => name),
    address: async () => alerting.address,
  };
}
