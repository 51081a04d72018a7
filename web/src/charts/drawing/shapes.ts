import { graphic } from "echarts/core";
import type { Cells, Ribbon, Way } from "./geometry.ts";

type Path = Pick<CanvasRenderingContext2D, "moveTo" | "lineTo" | "closePath" | "rect" | "arc">;

// Columns are held by an object of their own: the library copies arrays that are a shape's own properties, at a third
// of the whole cost.

function walk(path: Path, { way: { x, y } }: { readonly way: Way }): void {
  let down = false;
  for (let i = 0; i < y.length; i++) {
    const at = y[i] as number;
    if (Number.isNaN(at)) down = false;
    else if (down) path.lineTo(x[i] as number, at);
    else {
      path.moveTo(x[i] as number, at);
      down = true;
    }
  }
}

function fillBetween(path: Path, { ribbon: { x, y, base } }: { readonly ribbon: Ribbon }): void {
  for (let i = 0; i < y.length; i++) {
    if (Number.isNaN(y[i]) || Number.isNaN(base[i])) continue;
    const start = i;
    path.moveTo(x[i] as number, y[i] as number);
    while (i + 1 < y.length && !Number.isNaN(y[i + 1]) && !Number.isNaN(base[i + 1]))
      path.lineTo(x[++i] as number, y[i] as number);
    for (let k = i; k >= start; k--) path.lineTo(x[k] as number, base[k] as number);
    path.closePath();
  }
}

function place(path: Path, { held: { cells } }: { readonly held: { readonly cells: Cells } }): void {
  for (let i = 0; i + 3 < cells.length; i += 4)
    path.rect(cells[i] as number, cells[i + 1] as number, cells[i + 2] as number, cells[i + 3] as number);
}

function dot(
  path: Path,
  { held: { at, radius } }: { readonly held: { readonly at: readonly number[]; readonly radius: number } },
): void {
  for (let i = 0; i + 1 < at.length; i += 2) {
    path.moveTo((at[i] as number) + radius, at[i + 1] as number);
    path.arc(at[i] as number, at[i + 1] as number, radius, 0, Math.PI * 2);
  }
}

const shapes = { way: walk, ribbon: fillBetween, cells: place, dots: dot } as const;

/**
 * Lines, ribbons and cells of thousands of points are one shape each: a series of the library's own a line takes five
 * times as long. Makes the shapes known to the chart library, once.
 */
export function registerShapes(): void {
  for (const [name, buildPath] of Object.entries(shapes))
    graphic.registerShape(
      `nubrel-${name}`,
      graphic.extendShape({ type: `nubrel-${name}`, shape: {}, buildPath } as never) as never,
    );
}
