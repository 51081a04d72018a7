import { type ReactNode, useId, useState } from "react";

interface EntryFieldProps extends React.ComponentProps<"input"> {
  readonly label: string;
  readonly hint?: string | undefined;
  readonly problem: string | undefined;
}

/** One field of a form at the door, with what is wrong with it; a password is shown where somebody wants to see it. */
export function EntryField({ label, hint, problem, type, ...input }: EntryFieldProps): ReactNode {
  const id = useId();
  const [isShown, setIsShown] = useState(false);
  return (
    <div>
      <span className="flex items-baseline justify-between gap-4">
        <label htmlFor={id}>{label}</label>
        {type === "password" && (
          <button
            type="button"
            className="word-link text-[13px]"
            aria-pressed={isShown}
            aria-label={`show ${label}`}
            onClick={() => setIsShown(!isShown)}
          >
            {isShown ? "hide" : "show"}
          </button>
        )}
      </span>
      {hint && (
        <p id={`${id}-hint`} className="text-[13px] text-quiet">
          {hint}
        </p>
      )}
      <input
        id={id}
        required
        type={isShown ? "text" : type}
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
