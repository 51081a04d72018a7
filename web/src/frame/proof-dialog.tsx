import { beginIssuerProof } from "../../../core/api/issuer.ts";
import { beginPasskeyProof, proveByPasskey } from "../../../core/api/passkeys.ts";
import { passkeysMissing, showPasskey } from "../api/passkeys.ts";
import { waysInQuery } from "../api/queries.ts";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useId, useRef, useState } from "react";
import { proveMe } from "../../../core/api/people.ts";
import { call } from "../api/client.ts";
import { provideProof } from "../api/proof.ts";

/** Asks for the password or a passkey again where what is wanted makes or shows a secret. */
export function ProofDialog({ name }: { name: string }): ReactNode {
  const dialog = useRef<HTMLDialogElement>(null);
  const settle = useRef<((isProven: boolean) => void) | undefined>(undefined);
  const [password, setPassword] = useState("");
  const id = useId();
  const prove = useMutation({
    mutationFn: () => call(proveMe, {}, { password }),
    onSuccess: () => end(true),
  });
  const [isOpen, setIsOpen] = useState(false);
  const ways = useQuery({ ...waysInQuery, enabled: isOpen }).data;
  const byPasskey = useMutation({
    mutationFn: async () => {
      const { options } = await call(beginPasskeyProof, {});
      await call(proveByPasskey, {}, { response: await showPasskey(options) });
    },
    onSuccess: () => end(true),
  });
  const byIssuer = useMutation({
    mutationFn: () => call(beginIssuerProof, {}, { to: location.pathname + location.search }),
    onSuccess: ({ url }) => location.assign(url),
  });
  const canShowPasskey = (ways?.passkeys ?? 0) > 0 && !passkeysMissing();
  const error = prove.error ?? byPasskey.error ?? byIssuer.error;
  const end = (isProven: boolean) => {
    settle.current?.(isProven);
    settle.current = undefined;
    setPassword("");
    prove.reset();
    byPasskey.reset();
    byIssuer.reset();
    setIsOpen(false);
    dialog.current?.close();
  };
  useEffect(
    () =>
      provideProof(
        () =>
          new Promise((resolve) => {
            settle.current?.(false);
            settle.current = resolve;
            setIsOpen(true);
            if (!dialog.current?.open) dialog.current?.showModal();
          }),
      ),
    [],
  );
  return (
    <dialog
      ref={dialog}
      aria-labelledby={`${id}-title`}
      onClose={() => end(false)}
      className="m-auto w-[26rem] max-w-[calc(100vw-2rem)] border border-ink bg-paper p-6 text-ink backdrop:bg-paper/70"
    >
      <h2 id={`${id}-title`} className="text-lg font-bold">
        Is it still you, {name}?
      </h2>
      <p className="mt-2 text-quiet">This makes or shows a secret, or lets somebody in. It holds for ten minutes.</p>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          prove.mutate();
        }}
      >
        {ways?.hasPassword !== false && (
          <>
            <input type="text" autoComplete="username" value={name} readOnly hidden />
            <label htmlFor={id}>Password</label>
            <input
              id={id}
              type="password"
              autoComplete="current-password"
              required
              value={password}
              onChange={(event) => setPassword(event.target.value)}
            />
          </>
        )}
        {error && (
          <p role="alert" className="text-urgent">
            {error.message}
          </p>
        )}
        <div className="flex flex-wrap gap-4">
          {ways?.hasPassword !== false && (
            <button type="submit" className="act" disabled={prove.isPending}>
              Go on
            </button>
          )}
          {canShowPasskey && (
            <button type="button" className="act" disabled={byPasskey.isPending} onClick={() => byPasskey.mutate()}>
              Show a passkey
            </button>
          )}
          {ways?.issuer?.isLinked && (
            <button
              type="button"
              className="act-plain"
              title="You come back to this page; then do it once more"
              disabled={byIssuer.isPending}
              onClick={() => byIssuer.mutate()}
            >
              By {ways.issuer.name}
            </button>
          )}
          <button type="button" className="act-plain" onClick={() => end(false)}>
            Leave it
          </button>
        </div>
      </form>
    </dialog>
  );
}
