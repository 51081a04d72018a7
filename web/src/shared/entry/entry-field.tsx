import { type ReactNode, useId } from "react";

interface EntryFieldProps extends React.ComponentProps<"input"> {
  readonly label: string;
  readonly hint?: string | undefined;
  readonly problem: string | undefined;
}

/** One field of a form at the door, with what is wrong with it. */
export function EntryField({ label, hint, problem, ...input }: EntryFieldProps): ReactNode {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="block">
        {label}
      </label>
      {hint && (
        <p id={`${id}-hint`} className="text-[13px] text-quiet">
          {hint}
        </p>
      )}
      <input
        id={id}
        required
        aria-invalid={problem !== undefined}
        aria-describedby={problem ? `${id}-problem` : hint ? `${id}-hint` : undefined}
        className="mt-1 w-full"
        {...input}
      />
      {problem && (
        <p id={`${id}-problem`} role="alert" className="mt-1 text-urgent">
          {problem}
        </p>
      )}
    </div>
  );
}
