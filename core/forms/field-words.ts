/** What a browser finds wrong with a field, as its ValidityState says it. */
export interface FieldFault {
  readonly valueMissing: boolean;
  readonly badInput: boolean;
  readonly typeMismatch: boolean;
  readonly rangeUnderflow: boolean;
  readonly rangeOverflow: boolean;
  readonly stepMismatch: boolean;
  readonly tooShort: boolean;
  readonly tooLong: boolean;
  readonly patternMismatch: boolean;
}

/** What the field is and may hold. */
export interface FieldKind {
  readonly type: string;
  readonly min: string;
  readonly max: string;
  readonly minLength: number;
  readonly maxLength: number;
  /** What a pattern asks for, in words; the title of the field. */
  readonly title: string;
}

/** In our words, what is wrong with a field and what it takes; never those of the browser, which speaks otherwise in each. */
export function fieldFaultWords(fault: FieldFault, { type, min, max, minLength, maxLength, title }: FieldKind): string {
  if (fault.badInput)
    return type === "number"
      ? "That is no number: digits, with a point where there is a fraction."
      : "That is not whole.";
  if (fault.valueMissing)
    return type === "checkbox" || type === "radio" ? "One has to be chosen." : "Something has to stand here.";
  if (fault.typeMismatch) {
    if (type === "url") return "An address begins with https:// or http://, such as https://host:8080/path.";
    if (type === "email") return "A mail address is written as name@example.org.";
    return "That is not written as it must be.";
  }
  if (fault.rangeUnderflow || fault.rangeOverflow) return rangeWords(min, max);
  if (fault.stepMismatch) return "A whole number, without a fraction.";
  if (fault.tooShort) return `At least ${minLength} characters.`;
  if (fault.tooLong) return `No more than ${maxLength} characters.`;
  if (fault.patternMismatch) return title || "That is not written as it must be.";
  return "That cannot be taken.";
}

function rangeWords(min: string, max: string): string {
  if (min !== "" && max !== "") return `From ${min} to ${max}.`;
  return min === "" ? `At most ${max}.` : `At least ${min}.`;
}
