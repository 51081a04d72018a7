import type { PlotModel } from "../../../core/drawing/model.ts";
import { Plot } from "./plot.ts";

/** Drawing goes on for this long in one frame; what is left waits for the next, so that pointers stay followed. */
const frameBudgetMs = 80;
/** Charts this near to the screen are drawn already. */
const margin = "400px";

interface Managed {
  readonly element: HTMLElement;
  plot: Plot | undefined;
  model: PlotModel | undefined;
  near: boolean;
  /** The canvas no longer has the element's size. */
  resized: boolean;
}

/**
 * Draws every chart of the page: together in animation frames, only those that are near to the screen, the newest model
 * of each only. A
 * canvas is made when its chart first comes near.
 */
class ChartManager {
  readonly #all = new Map<Element, Managed>();
  readonly #waiting = new Set<Managed>();
  #frame: number | undefined;
  #near: IntersectionObserver | undefined;
  #sizes: ResizeObserver | undefined;
  readonly #listeners = new Set<() => void>();

  /** Puts an element under care until the handle is released. */
  add(element: HTMLElement): ChartHandle {
    const managed: Managed = { element, plot: undefined, model: undefined, near: false, resized: false };
    this.#all.set(element, managed);
    this.#watch(element);
    return {
      draw: (model) => {
        managed.model = model;
        this.#ask(managed);
      },
      canvas: (pixelRatio) => {
        this.#drawOne(managed);
        return managed.plot?.canvas(pixelRatio);
      },
      release: () => {
        this.#near?.unobserve(element);
        this.#sizes?.unobserve(element);
        this.#all.delete(element);
        this.#waiting.delete(managed);
        managed.plot?.dispose();
        if (this.#all.size === 0) removeEventListener("beforeprint", this.drawAll);
      },
    };
  }

  /** Tells when all that was asked for has been drawn; for measuring. */
  onIdle(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Draws at once what has a model, on the screen or not: paper has room for what no screen has shown yet. */
  readonly drawAll = (): void => {
    for (const managed of this.#all.values()) this.#drawOne(managed);
  };

  #watch(element: HTMLElement): void {
    if (this.#all.size === 1) addEventListener("beforeprint", this.drawAll);
    this.#near ??= new IntersectionObserver(
      (entries) => {
        for (const { target, isIntersecting } of entries) {
          const managed = this.#all.get(target);
          if (!managed) continue;
          managed.near = isIntersecting;
          this.#ask(managed);
        }
      },
      { rootMargin: margin },
    );
    this.#sizes ??= new ResizeObserver((entries) => {
      for (const { target } of entries) {
        const managed = this.#all.get(target);
        if (!managed) continue;
        managed.resized = true;
        this.#ask(managed);
      }
    });
    this.#near.observe(element);
    this.#sizes.observe(element);
  }

  #ask(managed: Managed): void {
    if (!managed.near || !managed.model) return;
    this.#waiting.add(managed);
    this.#frame ??= requestAnimationFrame(() => this.#drawWaiting());
  }

  #drawWaiting(): void {
    this.#frame = undefined;
    const until = performance.now() + frameBudgetMs;
    for (const managed of this.#waiting) {
      this.#waiting.delete(managed);
      this.#drawOne(managed);
      if (performance.now() > until) break;
    }
    if (this.#waiting.size > 0) this.#frame = requestAnimationFrame(() => this.#drawWaiting());
    else for (const listener of this.#listeners) listener();
  }

  #drawOne(managed: Managed): void {
    const { element, model } = managed;
    if (!model || element.clientWidth === 0) return;
    managed.plot ??= new Plot(element);
    if (managed.resized) managed.plot.resize();
    managed.resized = false;
    managed.plot.draw(model);
  }
}

export interface ChartHandle {
  draw(model: PlotModel): void;
  /** The chart as it stands, drawn anew; undefined before there is anything. */
  canvas(pixelRatio: number): HTMLCanvasElement | undefined;
  release(): void;
}

export const chartManager = new ChartManager();
