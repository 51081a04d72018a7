import { useCallback, useSyncExternalStore } from "react";

/** What a person has chosen for one line of one chart; kept in this browser. */
export interface LineStyle {
  readonly hidden?: boolean;
  readonly raised?: boolean;
  /** Place in the palette. */
  readonly colour?: number;
  /** Of the stroke, px. */
  readonly width?: number;
}

export const widths = [1, 1.5, 2.5, 4] as const;
export const defaultWidth = 1.5;

const place = "nubrel.lines";
const mostKept = 400;
const none: LineStyle = {};

class LineStyles {
  #all: Readonly<Record<string, LineStyle>> | undefined;
  readonly #listeners = new Set<() => void>();

  get all(): Readonly<Record<string, LineStyle>> {
    return (this.#all ??= read());
  }

  /** Changes a line's style; a change to `undefined` takes it back. */
  set(chart: string, line: string, change: { readonly [K in keyof LineStyle]: LineStyle[K] | undefined }): void {
    const key = styleKey(chart, line);
    const style = Object.fromEntries(
      Object.entries({ ...this.all[key], ...change }).filter(([, value]) => value !== undefined && value !== false),
    );
    const { [key]: _, ...others } = this.all;
    // What was chosen longest ago is let go.
    this.#all = Object.fromEntries(
      [...Object.entries(others), ...(Object.keys(style).length > 0 ? [[key, style] as const] : [])].slice(-mostKept),
    );
    try {
      localStorage.setItem(place, JSON.stringify(this.#all));
    } catch {
      // It holds until the page is left.
    }
    for (const listener of this.#listeners) listener();
  }

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };
}

function read(): Readonly<Record<string, LineStyle>> {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(place) ?? "{}");
    return typeof kept === "object" && kept !== null ? (kept as Record<string, LineStyle>) : {};
  } catch {
    return {};
  }
}

const styleKey = (chart: string, line: string) => `${chart} | ${line}`;

export const lineStyles = new LineStyles();

/** The styles of one chart's lines, by name. */
export function useLineStyles(chart: string): (line: string) => LineStyle {
  const all = useSyncExternalStore(lineStyles.subscribe, () => lineStyles.all);
  return useCallback((line) => all[styleKey(chart, line)] ?? none, [all, chart]);
}
