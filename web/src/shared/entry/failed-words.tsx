import type { ReactNode } from "react";
import type { RequestFailed } from "../../api/client.ts";

/** What was wrong with a form as a whole; what is wrong with a field stands at it. */
export function FailedWords({ failed }: { failed: RequestFailed | undefined }): ReactNode {
  if (!failed || failed.errors.length > 0) return null;
  return (
    <p role="alert" className="text-urgent">
      {failed.message}
    </p>
  );
}
