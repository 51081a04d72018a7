import { type ReactNode, useEffect, useState } from "react";
import { namePattern } from "./several.ts";

/** The name by which arithmetic speaks of a sentence. */
export function NamePart({
  name,
  taken,
  onRename,
}: {
  name: string;
  taken: readonly string[];
  onRename: (name: string) => void;
}): ReactNode {
  const [typed, setTyped] = useState(name);
  useEffect(() => setTyped(name), [name]);
  const fault =
    typed === name
      ? undefined
      : !namePattern.test(typed)
        ? "letters, digits and _ only, a letter first"
        : taken.includes(typed)
          ? "another sentence has this name"
          : undefined;
  return (
    <span className="shrink-0">
      <input
        aria-label={`name of the sentence ${name}`}
        className="figure w-24"
        value={typed}
        aria-invalid={fault !== undefined}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => (fault || typed === name ? setTyped(name) : onRename(typed))}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
      {fault && (
        <span role="alert" className="block text-[12px] text-urgent">
          {fault}
        </span>
      )}
    </span>
  );
}
