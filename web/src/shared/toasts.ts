import { createContext, useContext } from "react";
import type { Severity } from "../../../core/rules/rule.ts";

/** What the application tells a person at the edge of the page, for a while or until it is closed. */
export interface Toast {
  readonly text: string;
  readonly signal?: { readonly of: "raised" | "quiet"; readonly severity: Severity };
  /** What can be done about it. */
  readonly action?: { readonly words: string; readonly run: () => void };
  /** Goes away by itself after this time; stays until it is closed where none is given. */
  readonly forMs?: number;
}

/** How a notice is shown; the frame provides it. */
export const ToastsContext = createContext<((toast: Toast) => void) | undefined>(undefined);

export function useToasts(): (toast: Toast) => void {
  const show = useContext(ToastsContext);
  if (!show) throw new Error("useToasts needs a provider of toasts above it");
  return show;
}
