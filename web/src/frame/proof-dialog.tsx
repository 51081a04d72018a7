import { useMutation } from "@tanstack/react-query";
import { type ReactNode, useEffect, useId, useRef, useState } from "react";
import { proveMe } from "../../../core/api/people.ts";
import { call } from "../api/client.ts";
import { provideProof } from "../api/proof.ts";

/** Asks for the password again where what is wanted makes or shows a secret. */
export function ProofDialog({ name }: { name: string }): ReactNode {
  const dialog = useRef<HTMLDialogElement>(null);
  const settle = useRef<((isProven: boolean) => void) | undefined>(undefined);
  const [password, setPassword] = useState("");
  const id = useId();
  const prove = useMutation({
    mutationFn: () => call(proveMe, {}, { password }),
    onSuccess: () => end(true),
  });
  const end = (isProven: boolean) => {
    settle.current?.(isProven);
    settle.current = undefined;
    setPassword("");
    prove.reset();
    dialog.current?.close();
  };
  useEffect(
    () =>
      provideProof(
        () =>
          new Promise((resolve) => {
            settle.current?.(false);
            settle.current = resolve;
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
      <p className="mt-2 text-quiet">
        This makes or shows a secret, or lets somebody in. Your password holds for ten minutes.
      </p>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          prove.mutate();
        }}
      >
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
        {prove.error && (
          <p role="alert" className="text-urgent">
            {prove.error.message}
          </p>
        )}
        <div className="flex gap-4">
          <button type="submit" className="act" disabled={prove.isPending}>
            Go on
          </button>
          <button type="button" className="act-plain" onClick={() => end(false)}>
            Leave it
          </button>
        </div>
      </form>
    </dialog>
  );
}
