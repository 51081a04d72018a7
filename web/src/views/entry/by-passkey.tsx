import { useMutation } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { beginPasskeySignIn, signInByPasskey } from "../../../../core/api/passkeys.ts";
import type { Me } from "../../../../core/api/people.ts";
import { call } from "../../api/client.ts";
import { passkeysMissing, showPasskey } from "../../api/passkeys.ts";

/** The way in by a passkey, where this page knows them. */
export function ByPasskey({ onIn }: { onIn: (me: Me) => void }): ReactNode {
  const enter = useMutation({
    mutationFn: async () => {
      const { options } = await call(beginPasskeySignIn, {});
      return await call(signInByPasskey, {}, { response: await showPasskey(options) });
    },
    onSuccess: onIn,
  });
  if (passkeysMissing()) return null;
  return (
    <div className="mt-6 border-t border-hairline pt-4">
      <button type="button" className="act-plain" disabled={enter.isPending} onClick={() => enter.mutate()}>
        {enter.isPending ? "your device asks …" : "Sign in with a passkey"}
      </button>
      {enter.error && (
        <p role="alert" className="mt-2 text-urgent">
          {enter.error.message}
        </p>
      )}
    </div>
  );
}
