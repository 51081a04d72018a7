const prefix = "nubrel.draft.";

/** Where this browser keeps what somebody has begun and not saved. */
export const draftPlace = (id: number): string => `${prefix}${id}`;

/** Where this browser keeps what was looked at last among counters: it goes with whoever signs out. */
export const lastLookPlace = `${prefix}last-look`;

/** Whether a draft of a dashboard waits in this browser. */
export function draftWaits(id: number): boolean {
  try {
    return localStorage.getItem(draftPlace(id)) !== null;
  } catch {
    return false;
  }
}

/** Takes away all drafts. */
export function forgetDrafts(): void {
  try {
    for (const key of Object.keys(localStorage)) if (key.startsWith(prefix)) localStorage.removeItem(key);
  } catch {
    // this browser keeps nothing
  }
}
