/**
 * A field of a device as it is asked for in forms and checked by the server: what it holds, and its name to those who
 * do not see the sentence that it stands in. `absent` is what is taken where nothing is said; without it the field must
 * be there.
 */
export type DeviceField<Name extends string = string> = {
  readonly name: Name;
  readonly label: string;
  /** How wide its box is, in letters of the running text; its kind's own width where nothing is said. */
  readonly letters?: number;
} & (
  | { readonly holds: "host"; readonly example: string }
  /** An address of IP in numbers; empty only where nothing may be said. */
  | { readonly holds: "address"; readonly absent: string; readonly example?: string; readonly mayBeEmpty?: boolean }
  | { readonly holds: "port"; readonly absent: number }
  /** Milliseconds; a person says seconds. */
  | { readonly holds: "wait"; readonly absent: number }
  | {
      readonly holds: "text";
      readonly most: number;
      /** What it may be made of, and that in words for whom writes something else. */
      readonly pattern: RegExp;
      readonly madeOf: string;
      /** Where nothing may be said, what that is. */
      readonly absent?: string;
    }
  /** Several texts, typed with commas between them. */
  | { readonly holds: "texts"; readonly each: number; readonly most: number; readonly example?: string }
  | { readonly holds: "choice"; readonly of: readonly Choice[]; readonly absent: string; readonly leftOut?: boolean }
  | { readonly holds: "yes or no"; readonly absent: boolean }
);

/** One of the values of a field; the first that is not warned of is shown first. */
interface Choice {
  readonly value: string;
  readonly words: string;
  readonly warning?: string;
}

/** A line of a form: words, hints and fields, in reading order. */
export type FormLine<Name extends string = string> = readonly (string | Hint | DeviceField<Name>)[];

/** Said quietly beside a field. */
interface Hint {
  readonly hint: string;
}

// The fields that most kinds have.
export const waitField = (absent: number) =>
  ({ holds: "wait", name: "timeoutMs", label: "time-out in seconds", absent }) as const;
export const portField = (absent: number) => ({ holds: "port", name: "port", label: "port", absent }) as const;
export const hostField = (example: string) =>
  ({ holds: "host", name: "host", label: "name or address", example }) as const;
