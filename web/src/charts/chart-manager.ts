import type { PlotModel } from "../../../core/drawing/model.ts";
import { isNearScreen } from "../ui/is-near-screen.ts";
import { Plot, type PlotSize } from "./plot.ts";

/** Drawing goes on for this long in one frame; what is left waits for the next, so that pointers stay followed. */
const frameBudgetMs = 80;
/**
 * The canvases of so many are put into the page before the first of them is drawn: texts on a canvas need the page's
 * styles, which each new canvas has worked out again.
 */
const together = 8;
/** Charts this near to the screen are drawn already, px. */
const margin = 400;

interface Managed {
  readonly element: HTMLElement;
  plot: Plot | undefined;
  model: PlotModel | undefined;
  near: boolean;
  /** Its model or its size changed since it was drawn. */
  due: boolean;
  /** As it was last told; looked up where it is needed before. */
  size: PlotSize | undefined;
}

const sizeOf = ({ clientWidth, clientHeight }: HTMLElement): PlotSize => ({ width: clientWidth, height: clientHeight });

/**
 * Draws every chart of the page: together in animation frames, only those that are near to the screen, the newest model
 * of each only. A canvas is made when its chart first comes near. A new chart that has its model is drawn in the frame
 * in which it was laid out, where all sizes are known: to ask for one while others are drawn has the page laid out
 * again for each.
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
    const managed: Managed = { element, plot: undefined, model: undefined, near: false, due: false, size: undefined };
    this.#all.set(element, managed);
    this.#watch(element);
    return {
      draw: (model) => {
        managed.model = model;
        managed.due = true;
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
      { rootMargin: `${margin}px` },
    );
    this.#sizes ??= new ResizeObserver((entries) => {
      for (const { target } of entries) {
        const managed = this.#all.get(target);
        if (!managed) continue;
        if (!managed.size && isNearScreen(target, margin, margin)) managed.near = true;
        managed.size = sizeOf(managed.element);
        managed.due = true;
        if (managed.near && managed.model) this.#waiting.add(managed);
      }
      this.#drawWaiting();
    });
    this.#near.observe(element);
    this.#sizes.observe(element);
  }

  #ask(managed: Managed): void {
    if (!managed.near || !managed.due || !managed.model) return;
    this.#waiting.add(managed);
    this.#drawInFrame();
  }

  #drawInFrame(): void {
    this.#frame ??= requestAnimationFrame(() => {
      this.#frame = undefined;
      this.#drawWaiting();
    });
  }

  #drawWaiting(): void {
    if (this.#waiting.size === 0) return;
    const until = performance.now() + frameBudgetMs;
    for (const [i, managed] of [...this.#waiting].entries()) {
      if (i % together === 0) for (const next of [...this.#waiting].slice(0, together)) this.#make(next);
      this.#waiting.delete(managed);
      this.#drawOne(managed);
      if (performance.now() > until) break;
    }
    if (this.#waiting.size > 0) this.#drawInFrame();
    else for (const listener of this.#listeners) listener();
  }

  /** The plot and the size that it has now, where there is something to draw and room for it. */
  #make(managed: Managed): { readonly plot: Plot; readonly model: PlotModel; readonly size: PlotSize } | undefined {
    const { element, model, size = sizeOf(element) } = managed;
    if (!model || size.width === 0) return undefined;
    return { plot: (managed.plot ??= new Plot(element, size)), model, size };
  }

  #drawOne(managed: Managed): void {
    const made = this.#make(managed);
    if (!made) return;
    made.plot.draw(made.model, made.size);
    managed.due = false;
  }
}

export interface ChartHandle {
  draw(model: PlotModel): void;
  /** The chart as it stands, drawn anew; undefined before there is anything. */
  canvas(pixelRatio: number): HTMLCanvasElement | undefined;
  release(): void;
}

export const chartManager = new ChartManager();
