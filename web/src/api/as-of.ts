import { useSyncExternalStore } from "react";

// While its database is away the server answers with what it knows, and says of when that is.
let asOfMs: number | undefined;
const listeners = new Set<() => void>();

/** Notes what an answer says: `text` is its header Nubrel-As-Of, null where it is of now. */
export function noteAsOf(text: string | null): void {
  const next = text === null ? undefined : Number(text);
  if (next === asOfMs || (next === undefined && asOfMs === undefined)) return;
  asOfMs = next;
  for (const listener of listeners) listener();
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => void listeners.delete(listener);
};

/** Of when the newest answer is that was not of now; undefined while answers are of now. */
export function useAsOf(): number | undefined {
  return useSyncExternalStore(subscribe, () => asOfMs);
}
