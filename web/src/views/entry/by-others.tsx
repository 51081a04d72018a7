import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import { beginIssuerSignIn, notInParameter } from "../../../../core/api/issuer.ts";
import { beginPasskeySignIn, signInByPasskey } from "../../../../core/api/passkeys.ts";
import { signInByProxy } from "../../../../core/api/people.ts";
import { call } from "../../api/client.ts";
import { passkeysMissing, showPasskey } from "../../api/passkeys.ts";
import { meQuery, setupQuery } from "../../api/queries.ts";

/** Ways in besides a name and a password: a passkey, an issuer, a proxy that says who comes. */
export function ByOthers(): ReactNode {
  const queries = useQueryClient();
  const setup = useQuery(setupQuery).data;
  const onIn = { onSuccess: (me: unknown) => queries.setQueryData(meQuery.queryKey, me as never) };
  const byPasskey = useMutation({
    mutationFn: async () => {
      const { options } = await call(beginPasskeySignIn, {});
      return await call(signInByPasskey, {}, { response: await showPasskey(options) });
    },
    ...onIn,
  });
  const { mutate: byProxy, ...proxied } = useMutation({ mutationFn: () => call(signInByProxy, {}), ...onIn });
  const byIssuer = useMutation({
    mutationFn: () => call(beginIssuerSignIn, {}, { to: whereNow() }),
    onSuccess: ({ url }) => location.assign(url),
  });
  const isProxied = setup?.byProxy === true;
  useEffect(() => {
    if (isProxied) byProxy();
  }, [isProxied, byProxy]);
  const knowsPasskeys = !passkeysMissing();
  const failed = byPasskey.error ?? byIssuer.error ?? proxied.error;
  if (!knowsPasskeys && !setup?.issuer && !failed) return null;
  return (
    <div className="mt-6 flex flex-wrap gap-3 border-t border-hairline pt-4" data-other-ways>
      {setup?.issuer && (
        <button type="button" className="act-plain" disabled={byIssuer.isPending} onClick={() => byIssuer.mutate()}>
          Sign in by {setup.issuer}
        </button>
      )}
      {knowsPasskeys && (
        <button type="button" className="act-plain" disabled={byPasskey.isPending} onClick={() => byPasskey.mutate()}>
          {byPasskey.isPending ? "your device asks …" : "Sign in with a passkey"}
        </button>
      )}
      {failed && (
        <p role="alert" className="w-full text-urgent">
          {failed.message}
        </p>
      )}
    </div>
  );
}

/** Where the browser is, to come back to. */
function whereNow(): string {
  const here = new URL(location.href);
  here.searchParams.delete(notInParameter);
  return here.pathname + here.search;
}
