import { isBinary, type Scale, scaleFor } from "./present.ts";

export interface Axis {
  readonly min: number;
  readonly max: number;
  /** Values of the ticks in the data's unit, ascending. */
  readonly ticks: readonly number[];
  /** One text a tick. */
  readonly labels: readonly string[];
  /** The unit that all labels share, shown once. */
  readonly unit: string;
}

/**
 * An axis from 0 (or below, where values are) to a round number at or above `max`, with three to five ticks that are
 * round in the unit shown:
 * 1, 2, 2.5 or 5 times a power of ten; powers of two below 1024 for bytes in IEC prefixes. `ceiling` is where the axis
 * must end, 100 for percent say. The prefix is that of the axis' own end: what ends at 1024 MiB ends at 1 GiB.
 */
export function axisFor(unit: string, min: number, max: number, ceiling?: number): Axis {
  const top = ceiling ?? (max > 0 ? max : min < 0 ? 0 : 1);
  const bottom = Math.min(0, min);
  const scale = scaleFor(unit, Math.max(Math.abs(top), Math.abs(bottom)));
  const axis = axisIn(scale, unit, { bottom, top, ceiling });
  const ends = scaleFor(unit, Math.max(Math.abs(axis.max), Math.abs(axis.min)));
  if (ends.factor === scale.factor) return axis;
  // Up to where it ended in the smaller unit, so that it does not end below the larger one (45 s as 0.75 min).
  return axisIn(ends, unit, { bottom: axis.min, top: axis.max, ceiling });
}

interface Ends {
  readonly bottom: number;
  readonly top: number;
  readonly ceiling: number | undefined;
}

function axisIn(scale: Scale, unit: string, { bottom, top, ceiling }: Ends): Axis {
  const wanted = ((top - bottom) * scale.factor) / 3;
  const step = isBinary(unit) ? binaryStep(wanted) : decimalStep(wanted);
  const first = Math.floor((bottom * scale.factor) / step + 1e-9);
  const last = Math.ceil((top * scale.factor) / step - 1e-9);
  // As many decimals as tell neighbouring ticks apart: one more than the step's power, as a step may be 2.5 times it.
  const decimals = Math.min(20, Math.max(0, 1 - Math.floor(Math.log10(step))));
  const ticks: number[] = [];
  const labels: string[] = [];
  for (let i = Math.min(first, 0); i <= last; i++) {
    const shown = i * step;
    if (ceiling !== undefined && shown / scale.factor > ceiling * (1 + 1e-9)) break;
    ticks.push(shown / scale.factor);
    labels.push(String(Number(shown.toFixed(decimals))));
  }
  const end = ceiling ?? ticks[ticks.length - 1];
  return { min: ticks[0], max: end, ticks, labels, unit: scale.unit };
}

function decimalStep(wanted: number): number {
  const power = 10 ** Math.floor(Math.log10(wanted));
  const factor = [1, 2, 2.5, 5, 10].find((f) => f * power >= wanted * (1 - 1e-9)) ?? 10;
  return factor * power;
}

function binaryStep(wanted: number): number {
  return 2 ** Math.ceil(Math.log2(wanted) - 1e-9);
}
