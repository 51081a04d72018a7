import { useEffect, useSyncExternalStore } from "react";
import type { Theme } from "../../../core/drawing/palette.ts";

export type ThemeChoice = Theme | "system";

const key = "nubrel.theme";
const dark = matchMedia("(prefers-color-scheme: dark)");
const listeners = new Set<() => void>();

const stored = (): ThemeChoice => {
  const value = localStorage.getItem(key);
  return value === "day" || value === "night" ? value : "system";
};
let choice: ThemeChoice = stored();

/** What holds for now over the choice: paper is always by day, a wall by its hours. */
let instead: Theme | null = null;

function current(): Theme {
  if (instead !== null) return instead;
  return choice === "system" ? (dark.matches ? "night" : "day") : choice;
}

function apply(): void {
  document.documentElement.dataset["theme"] = current();
  for (const listener of listeners) listener();
}

/** Applies the theme and follows the system from now on; called once, before anything is drawn. */
export function startTheme(): void {
  dark.addEventListener("change", apply);
  apply();
}

export function chooseTheme(next: ThemeChoice): void {
  choice = next;
  if (next === "system") localStorage.removeItem(key);
  else localStorage.setItem(key, next);
  apply();
}

/** Another theme for now, without its being chosen; null ends it. */
export function themeInstead(theme: Theme | null): void {
  if (instead === theme) return;
  instead = theme;
  apply();
}

/** While a view that has this is printed, it is by day: paper is white. */
export function useDayOnPaper(): void {
  useEffect(() => {
    const before = () => themeInstead("day");
    const after = () => themeInstead(null);
    addEventListener("beforeprint", before);
    addEventListener("afterprint", after);
    return () => {
      removeEventListener("beforeprint", before);
      removeEventListener("afterprint", after);
      themeInstead(null);
    };
  }, []);
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useTheme = (): Theme => useSyncExternalStore(subscribe, current);
export const useThemeChoice = (): ThemeChoice => useSyncExternalStore(subscribe, () => choice);
