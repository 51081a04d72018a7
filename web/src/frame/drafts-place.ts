const prefix = "nubrel.draft.";

/** Where this browser keeps what somebody has begun and not saved. */
export const draftPlace = (id: number): string => `${prefix}${id}`;

/** Takes away all drafts. */
export function forgetDrafts(): void {
  try {
    for (const key of Object.keys(localStorage)) if (key.startsWith(prefix)) localStorage.removeItem(key);
  } catch {
    // this browser keeps nothing
  }
}
