/** Text that cannot be read; `line` counts from 1, `column` too. */
export class TextError extends Error {
  readonly line: number;
  readonly column: number | undefined;
  /** The words without their place. */
  readonly plain: string;
  constructor(message: string, line: number, column?: number) {
    super(`line ${line}${column === undefined ? "" : `, column ${column}`}: ${message}`);
    this.name = "TextError";
    this.plain = message;
    this.line = line;
    this.column = column;
  }
}
