/** A figure at several sizes, for a picture of how it grows. */
export interface Curve {
  readonly what: string;
  readonly unit: string;
  /** In the order of the sizes. */
  readonly values: readonly number[];
}

const [width, height] = [260, 150];
const [left, right, top, bottom] = [58, 14, 34, 26];
const across = 3;
const colours = { paper: "#f7f3ec", ink: "#22303a", quiet: "#5d6b73", line: "#16695c", hairline: "#d9d2c5" };

/**
 * Draws how figures grow, each in a frame of its own, as SVG: sizes and figures by their powers of ten, so that a
 * straight line upwards is growth in proportion and a level one is none.
 */
export function growthPicture(sizes: readonly number[], curves: readonly Curve[]): string {
  const rows = Math.ceil(curves.length / across);
  const frames = curves.map((curve, i) => {
    const [x, y] = [(i % across) * width, Math.floor(i / across) * height];
    return `<g transform="translate(${x} ${y})">${frame(sizes, curve)}</g>`;
  });
  const [w, h] = [across * width, rows * height];
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${w} ${h}" width="${w}" height="${h}" font-family="sans-serif" font-size="11" role="img">`,
    `<title>What grows with the number of series: ${curves.map(({ what }) => what).join(", ")}</title>`,
    `<rect width="${w}" height="${h}" fill="${colours.paper}"/>`,
    ...frames,
    "</svg>\n",
  ].join("\n");
}

function frame(sizes: readonly number[], { what, unit, values }: Curve): string {
  const powers = values.map(Math.log10);
  const least = Math.floor(Math.min(...powers) + 1e-9);
  const most = Math.max(least + 1, Math.ceil(Math.max(...powers) - 1e-9));
  const [firstSize, lastSize] = [Math.log10(sizes[0] as number), Math.log10(sizes.at(-1) as number)];
  const x = (size: number) => left + ((Math.log10(size) - firstSize) / (lastSize - firstSize)) * (width - left - right);
  const y = (value: number) =>
    height - bottom - ((Math.log10(value) - least) / (most - least)) * (height - top - bottom);
  const lines: string[] = [`<text x="${left}" y="18" fill="${colours.ink}">${what}</text>`];
  for (let power = least; power <= most; power++) {
    const at = round(y(10 ** power));
    lines.push(
      `<path d="M${left} ${at}H${width - right}" stroke="${colours.hairline}"/>`,
      `<text x="${left - 5}" y="${at + 4}" text-anchor="end" fill="${colours.quiet}">${Number((10 ** power).toPrecision(3)).toLocaleString("en")}${power === most ? ` ${unit}` : ""}</text>`,
    );
  }
  for (const size of sizes)
    lines.push(
      `<text x="${round(x(size))}" y="${height - 10}" text-anchor="middle" fill="${colours.quiet}">${sized(size)}</text>`,
    );
  const points = values.map((value, i) => `${round(x(sizes[i] as number))} ${round(y(value))}`);
  lines.push(`<path d="M${points.join("L")}" fill="none" stroke="${colours.line}" stroke-width="1.5"/>`);
  for (const point of points) {
    const [cx, cy] = point.split(" ");
    lines.push(`<circle cx="${cx}" cy="${cy}" r="2.5" fill="${colours.line}"/>`);
  }
  return lines.join("\n");
}

const round = (n: number): number => Math.round(n * 10) / 10;

/** "10 k" of 10,000: decimal prefixes, as the SI has them. */
const sized = (n: number): string => (n >= 1e6 ? `${n / 1e6} M` : `${n / 1e3} k`);
