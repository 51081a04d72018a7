import { lastLookPlace as place } from "../../frame/drafts-place.ts";

/** The address of the reading that this browser looked at last; null where it keeps none. */
export function lastLook(): string | null {
  try {
    const kept = localStorage.getItem(place);
    return kept?.startsWith("/counters?") ? kept : null;
  } catch {
    return null;
  }
}

export function keepLook(address: string): void {
  try {
    localStorage.setItem(place, address);
  } catch {
    // This browser keeps nothing.
  }
}
