import { type InputHTMLAttributes, type ReactNode, useEffect, useRef, useState } from "react";

interface TypedInputProps extends Omit<InputHTMLAttributes<HTMLInputElement>, "value" | "onChange"> {
  readonly value: string;
  readonly onType: (text: string) => void;
}

/**
 * A field whose text lives somewhere slower, the address say: while it is typed into, what is typed stands, not what
 * comes back.
 */
export function TypedInput({ value, onType, ...rest }: TypedInputProps): ReactNode {
  const field = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState(value);
  useEffect(() => {
    if (document.activeElement !== field.current) setTyped(value);
  }, [value]);
  return (
    <input
      {...rest}
      ref={field}
      value={typed}
      onChange={(event) => {
        setTyped(event.target.value);
        onType(event.target.value);
      }}
      onBlur={() => setTyped(value)}
    />
  );
}
