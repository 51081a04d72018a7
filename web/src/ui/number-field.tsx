import { type ReactNode, useEffect, useId, useRef, useState } from "react";
import { readTypedNumber } from "../../../core/forms/typed-number.ts";

interface NumberFieldProps {
  readonly label: string;
  readonly value: number | undefined;
  readonly usual: string;
  /** With it the number is a whole one, unless `fractions` are taken as well. */
  readonly least?: number;
  readonly most?: number;
  readonly fractions?: boolean;
  /** The path of this number in what is sent: what a server says of it stands here. */
  readonly name?: string;
  readonly required?: boolean;
  readonly className?: string;
  readonly onChange: (value: number | undefined) => void;
}

/**
 * A number in the middle of a sentence, with decimal point or comma; empty is what is usual. What is no number, or
 * outside, stands there until it is mended and says what is wrong with it; no form is sent with it.
 */
export function NumberField({
  label,
  value,
  usual,
  least,
  most,
  fractions = false,
  name,
  required = false,
  className = "w-24",
  onChange,
}: NumberFieldProps): ReactNode {
  const field = useRef<HTMLInputElement>(null);
  const shown = value === undefined ? "" : String(value);
  const [typed, setTyped] = useState(shown);
  const [problem, setProblem] = useState("");
  const id = useId();
  useEffect(() => {
    // While it is typed into, what is typed stands, and what is wrong stands until it is mended.
    if (document.activeElement !== field.current && !field.current?.validationMessage) setTyped(shown);
  }, [shown]);
  const read = (text: string) => {
    setTyped(text);
    const found = readTypedNumber(text, {
      ...(least !== undefined && { least, isWhole: !fractions }),
      ...(most !== undefined && { most }),
    });
    const wrong = "problem" in found ? found.problem : "";
    field.current?.setCustomValidity(wrong);
    setProblem(wrong);
    if ("value" in found) onChange(found.value);
  };
  return (
    <>
      <input
        ref={field}
        name={name}
        required={required}
        aria-label={label}
        inputMode="decimal"
        placeholder={usual}
        value={typed}
        aria-invalid={problem !== ""}
        aria-describedby={problem === "" ? undefined : id}
        className={`figure !py-0 ${className} ${problem === "" ? "" : "!border-urgent"}`}
        onChange={(event) => read(event.target.value)}
        onBlur={() => {
          if (problem === "") setTyped(shown);
        }}
      />
      {problem !== "" && (
        <span id={id} role="alert" className="mx-1 text-[13px] text-urgent">
          {problem}
        </span>
      )}
    </>
  );
}
