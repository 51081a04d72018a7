import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { renderSVG } from "uqr";
import { beginCodes, confirmCodes, dropCodes } from "../../../../core/api/people.ts";
import { call, RequestFailed } from "../../api/client.ts";
import { codesQuery } from "../../api/queries.ts";
import { EntryField } from "../../shared/entry/entry-field.tsx";
import { FailedWords } from "../../shared/entry/failed-words.tsx";
import { Paste } from "../../shared/sources/paste.tsx";

/** Codes of a device as a second factor: taken up, shown to work, given up. */
export function CodesPart(): ReactNode {
  const queries = useQueryClient();
  const codes = useQuery(codesQuery).data;
  const refresh = () => queries.invalidateQueries({ queryKey: codesQuery.queryKey });
  const begin = useMutation({ mutationFn: () => call(beginCodes, {}) });
  const drop = useMutation({ mutationFn: () => call(dropCodes, {}), onSuccess: refresh });
  const [recovery, setRecovery] = useState<readonly string[] | null>(null);
  const confirmed = async (made: readonly string[]) => {
    setRecovery(made);
    begin.reset();
    await refresh();
  };
  const failed = begin.error ?? drop.error;
  return (
    <section aria-labelledby="codes-title" className="border-t border-hairline py-4">
      <h2 id="codes-title" className="font-bold">
        Time codes
      </h2>
      <p className="max-w-prose text-quiet">
        A device of yours shows a code that changes every half minute, and signing in wants it beside the password.
      </p>
      {codes?.isOn && (
        <p className="mt-2">
          Signing in wants a code. <span className="figure">{codes.recoveryLeft}</span>{" "}
          {codes.recoveryLeft === 1 ? "code" : "codes"} for recovery {codes.recoveryLeft === 1 ? "is" : "are"} left.{" "}
          <button type="button" className="word-link" disabled={drop.isPending} onClick={() => drop.mutate()}>
            give them up
          </button>
        </p>
      )}
      {recovery && (
        <Paste
          label="Codes for recovery, each works once where the device is lost. They are shown now and never again"
          text={recovery.join("\n")}
        />
      )}
      {!begin.data && (
        <button type="button" className="act-plain mt-3" disabled={begin.isPending} onClick={() => begin.mutate()}>
          {codes?.isOn ? "Take up another device" : "Take them up"}
        </button>
      )}
      {begin.data && <Confirm {...begin.data} confirmed={confirmed} />}
      {failed && (
        <p role="alert" className="py-2 text-urgent">
          {failed.message}
        </p>
      )}
    </section>
  );
}

interface ConfirmProps {
  readonly secret: string;
  readonly uri: string;
  readonly confirmed: (recovery: readonly string[]) => Promise<void>;
}

function Confirm({ secret, uri, confirmed }: ConfirmProps): ReactNode {
  const [code, setCode] = useState("");
  const confirm = useMutation({
    mutationFn: () => call(confirmCodes, {}, { code }),
    onSuccess: ({ recovery }) => confirmed(recovery),
  });
  const failed = confirm.error instanceof RequestFailed ? confirm.error : undefined;
  return (
    <div className="mt-3 flex flex-wrap gap-8">
      <img
        alt="The secret, for the device's camera"
        width={200}
        height={200}
        className="bg-white p-2"
        src={`data:image/svg+xml,${encodeURIComponent(renderSVG(uri))}`}
      />
      <form
        className="flex max-w-md flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          confirm.mutate();
        }}
      >
        <Paste label="Hold the device's camera at the picture, or type this in" text={secret} />
        <EntryField
          label="The code that it shows"
          problem={failed?.errors[0]?.message}
          value={code}
          onChange={(event) => setCode(event.target.value)}
          autoComplete="one-time-code"
          inputMode="numeric"
        />
        <FailedWords failed={failed} />
        <button type="submit" className="act self-start" disabled={confirm.isPending}>
          Ask me for a code from now on
        </button>
      </form>
    </div>
  );
}
