import type { ReactNode } from "react";

interface AskedState {
  readonly isPending: boolean;
  readonly error: Error | null;
  readonly data: unknown;
  readonly refetch: () => unknown;
}

/** What stands in an answer's place while it is read, or where it failed. */
export function Asking({ of }: { of: AskedState }): ReactNode {
  if (of.isPending) return <p className="py-6 text-quiet">reading …</p>;
  if (!of.error || of.data) return null;
  return (
    <p role="alert" className="py-6 text-urgent">
      {of.error.message}{" "}
      <button type="button" className="word-link" onClick={() => void of.refetch()}>
        Try again
      </button>
    </p>
  );
}
