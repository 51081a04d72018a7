import type { ReactNode } from "react";
import { useCalled } from "../../api/use-called.ts";

/** A machine as people call it; pointed at, it says the name that it reports under. */
export function Called({ machine }: { machine: string }): ReactNode {
  const words = useCalled()(machine);
  return words === machine ? machine : <span title={machine}>{words}</span>;
}
