/** What a number in a field may be. */
export interface NumberBounds {
  readonly least?: number;
  readonly most?: number;
  readonly isWhole?: boolean;
}

export type TypedNumber = { readonly value: number | undefined } | { readonly problem: string };

const plain = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d{1,3})?$/i;
const longestText = 40;

/**
 * The number that somebody has typed: digits with a decimal point or comma, and no other notation. Nothing typed is no
 * number; what cannot be read, or is outside the bounds, is a problem in words that say what would do.
 */
export function readTypedNumber(typed: string, { least, most, isWhole = false }: NumberBounds = {}): TypedNumber {
  const text = typed.trim().replace(/^[−–]/, "-");
  if (text === "") return { value: undefined };
  const shown = text.length > longestText ? `${text.slice(0, longestText)}…` : text;
  const pointed = text.replace(",", ".");
  if (!plain.test(pointed)) return { problem: whyNone(text, shown) };
  const value = Number(pointed);
  if (!Number.isFinite(value)) return { problem: `${shown} is more than can be counted` };
  if (isWhole && !Number.isInteger(value)) return { problem: "a whole number is wanted here" };
  if (least !== undefined && value < least) return { problem: `${least} or more is wanted here` };
  if (most !== undefined && value > most) return { problem: `${most} or less is wanted here` };
  return { value };
}

function whyNone(text: string, shown: string): string {
  const digits = text.replace(/[\s'’_]/g, "");
  if (digits !== text && plain.test(digits.replace(",", "."))) return `write it in one piece: ${digits}`;
  const alone = /^([+-]?[\d.,]+)\s*[^\d\s.,].*$/.exec(text)?.[1];
  if (alone !== undefined && plain.test(alone.replace(",", ".")) && !/^0x/i.test(text))
    return `write the number alone: ${alone}`;
  if (/^[+-]?[\d.,]+$/.test(text)) return `${shown} has more than one point or comma`;
  return `${shown} is no number`;
}
