import type { Cells, Ribbon, Way } from "./geometry.ts";

/** The part of a canvas' pen that a shape's way needs: the browser's, the chart library's, the server's. */
interface Path {
  moveTo(x: number, y: number): void;
  lineTo(x: number, y: number): void;
  closePath(): void;
  rect(x: number, y: number, width: number, height: number): void;
  arc(x: number, y: number, radius: number, from: number, to: number): void;
}

// Columns are held by an object of their own: the library copies arrays that are a shape's own properties, at a third
// of the whole cost.

function walk(path: Path, { way: { x, y } }: { readonly way: Way }): void {
  let down = false;
  for (let i = 0; i < y.length; i++) {
    const at = y[i];
    if (Number.isNaN(at)) down = false;
    else if (down) path.lineTo(x[i], at);
    else {
      path.moveTo(x[i], at);
      down = true;
    }
  }
}

function fillBetween(path: Path, { ribbon: { x, y, base } }: { readonly ribbon: Ribbon }): void {
  for (let i = 0; i < y.length; i++) {
    if (Number.isNaN(y[i]) || Number.isNaN(base[i])) continue;
    const start = i;
    path.moveTo(x[i], y[i]);
    while (i + 1 < y.length && !Number.isNaN(y[i + 1]) && !Number.isNaN(base[i + 1])) path.lineTo(x[++i], y[i]);
    for (let k = i; k >= start; k--) path.lineTo(x[k], base[k]);
    path.closePath();
  }
}

function place(path: Path, { held: { cells } }: { readonly held: { readonly cells: Cells } }): void {
  for (let i = 0; i + 3 < cells.length; i += 4) path.rect(cells[i], cells[i + 1], cells[i + 2], cells[i + 3]);
}

function dot(
  path: Path,
  { held: { at, radius } }: { readonly held: { readonly at: readonly number[]; readonly radius: number } },
): void {
  for (let i = 0; i + 1 < at.length; i += 2) {
    path.moveTo(at[i] + radius, at[i + 1]);
    path.arc(at[i], at[i + 1], radius, 0, Math.PI * 2);
  }
}

/**
 * The way that each kind of shape goes, by its name. Lines, ribbons and cells of thousands of points are one shape
 * each: a series of the chart library's own a line takes five times as long.
 */
export const paths: Readonly<Record<ShapeName, (path: Path, shape: never) => void>> = {
  "nubrel-way": walk,
  "nubrel-ribbon": fillBetween,
  "nubrel-cells": place,
  "nubrel-dots": dot,
};
export type ShapeName = "nubrel-way" | "nubrel-ribbon" | "nubrel-cells" | "nubrel-dots";
