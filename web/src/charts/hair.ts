import { useSyncExternalStore } from "react";

/** The moment that is pointed at, shared by every chart and the rail. */
class Hair {
  #atMs: number | null = null;
  #pending: number | null = null;
  #frame: number | undefined;
  readonly #listeners = new Set<() => void>();

  get atMs(): number | null {
    return this.#atMs;
  }

  /** Takes effect with the next frame: pointers report more often than screens draw. */
  point(atMs: number | null): void {
    this.#pending = atMs;
    this.#frame ??= requestAnimationFrame(() => {
      this.#frame = undefined;
      if (this.#atMs === this.#pending) return;
      this.#atMs = this.#pending;
      for (const listener of this.#listeners) listener();
    });
  }

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };
}

export const hair = new Hair();

/** The moment pointed at anywhere, null where the pointer is on no chart. */
export const useHair = (): number | null => useSyncExternalStore(hair.subscribe, () => hair.atMs);
