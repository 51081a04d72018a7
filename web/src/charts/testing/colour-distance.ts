/** Red, green and blue from 0 to 1, gamma-encoded (sRGB). */
export type Rgb = readonly [number, number, number];

export function rgbFromHex(hex: string): Rgb {
  const n = Number.parseInt(hex.slice(1), 16);
  return [((n >> 16) & 255) / 255, ((n >> 8) & 255) / 255, (n & 255) / 255];
}

const linear = (c: number) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
const encoded = (c: number) => (c <= 0.0031308 ? c * 12.92 : 1.055 * c ** (1 / 2.4) - 0.055);

/** Contrast ratio, WCAG 2.2 "relative luminance" and "contrast ratio". */
export function contrast(a: Rgb, b: Rgb): number {
  const luminance = (rgb: Rgb) => 0.2126 * linear(rgb[0]) + 0.7152 * linear(rgb[1]) + 0.0722 * linear(rgb[2]);
  const [x, y] = [luminance(a), luminance(b)];
  return (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05);
}

/**
 * Severity 1.0 of Machado, Oliveira & Fernandes, "A Physiologically-based Model for Simulation of Color Vision
 * Deficiency", IEEE TVCG 15(6), 2009; on linear RGB.
 */
const deficiencies = {
  protanopia: [0.152286, 1.052583, -0.204868, 0.114503, 0.786281, 0.099216, -0.003882, -0.048116, 1.051998],
  deuteranopia: [0.367322, 0.860646, -0.227968, 0.280085, 0.672501, 0.047413, -0.01182, 0.04294, 0.968881],
  tritanopia: [1.255528, -0.076749, -0.178779, -0.078411, 0.930809, 0.147602, 0.004733, 0.691367, 0.3039],
} as const;

export type Deficiency = keyof typeof deficiencies;

export function simulate(rgb: Rgb, deficiency: Deficiency): Rgb {
  const m = deficiencies[deficiency];
  const [r, g, b] = rgb.map(linear) as [number, number, number];
  const row = (i: number) =>
    encoded(Math.min(1, Math.max(0, (m[i] as number) * r + (m[i + 1] as number) * g + (m[i + 2] as number) * b)));
  return [row(0), row(3), row(6)];
}

export type Lab = readonly [number, number, number];

/** CIE L*a*b* of an sRGB colour, white D65 (IEC 61966-2-1). */
export function labFromRgb(rgb: Rgb): Lab {
  const [r, g, b] = rgb.map(linear) as [number, number, number];
  const f = (t: number) => (t > 216 / 24389 ? Math.cbrt(t) : ((24389 / 27) * t + 16) / 116);
  const x = f((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047);
  const y = f(0.2126729 * r + 0.7151522 * g + 0.072175 * b);
  const z = f((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / 1.08883);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

/**
 * CIEDE2000 with kL = kC = kH = 1: Sharma, Wu & Dalal, "The CIEDE2000 Color-Difference Formula", Color Research &
 * Application 30(1), 2005.
 */
export function ciede2000([l1, a1, b1]: Lab, [l2, a2, b2]: Lab): number {
  const radians = Math.PI / 180;
  const c7 = ((Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2) ** 7;
  const g = 0.5 * (1 - Math.sqrt(c7 / (c7 + 25 ** 7)));
  const [p1, p2] = [a1 * (1 + g), a2 * (1 + g)];
  const [c1, c2] = [Math.hypot(p1, b1), Math.hypot(p2, b2)];
  const hue = (a: number, b: number) => (a === 0 && b === 0 ? 0 : (Math.atan2(b, a) / radians + 360) % 360);
  const [h1, h2] = [hue(p1, b1), hue(p2, b2)];
  const grey = c1 * c2 === 0;
  let dh = grey ? 0 : h2 - h1;
  if (dh > 180) dh -= 360;
  else if (dh < -180) dh += 360;
  const dH = 2 * Math.sqrt(c1 * c2) * Math.sin((dh / 2) * radians);
  const l = (l1 + l2) / 2;
  const c = (c1 + c2) / 2;
  let h = h1 + h2;
  if (!grey) h = Math.abs(h1 - h2) <= 180 ? h / 2 : h < 360 ? (h + 360) / 2 : (h - 360) / 2;
  const cos = (degrees: number) => Math.cos(degrees * radians);
  const t = 1 - 0.17 * cos(h - 30) + 0.24 * cos(2 * h) + 0.32 * cos(3 * h + 6) - 0.2 * cos(4 * h - 63);
  const sl = 1 + (0.015 * (l - 50) ** 2) / Math.sqrt(20 + (l - 50) ** 2);
  const sc = 1 + 0.045 * c;
  const sh = 1 + 0.015 * c * t;
  const rt = -2 * Math.sqrt(c ** 7 / (c ** 7 + 25 ** 7)) * Math.sin(60 * Math.exp(-(((h - 275) / 25) ** 2)) * radians);
  const [x, y, z] = [(l2 - l1) / sl, (c2 - c1) / sc, dH / sh];
  return Math.sqrt(x * x + y * y + z * z + rt * y * z);
}
