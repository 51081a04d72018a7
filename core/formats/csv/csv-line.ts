/** What a spreadsheet would take for a formula. */
const formula = /^[=+\-@\t\r]/;

/** A text that a spreadsheet would take for a formula, led by an apostrophe, which it shows as a text. */
export const guardedText = (text: string): string => (formula.test(text) ? `'${text}` : text);

/**
 * A record of a CSV text (RFC 4180 §2) with its line end. A field stands in quotes where it holds the delimiter, a
 * quote or a line end, or blanks around it, which some readers take off.
 */
export const csvLine = (fields: readonly string[], delimiter = ","): string =>
  `${fields.map((field) => csvField(field, delimiter)).join(delimiter)}\r\n`;

/** One field of a record. */
export const csvField = (field: string, delimiter = ","): string =>
  field.includes(delimiter) || /["\r\n]|^\s|\s$/.test(field) ? `"${field.replaceAll('"', '""')}"` : field;
