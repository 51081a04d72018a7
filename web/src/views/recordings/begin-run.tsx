import { useMay } from "../../shared/people/use-may.ts";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { beginRun, type RecordingView } from "../../../../core/api/recordings.ts";
import { call, RequestFailed } from "../../api/client.ts";
import { SelectPart } from "../../sentence/select-part.tsx";

const lengths: readonly (readonly [string, string])[] = [
  ["60", "1 min"],
  ["240", "4 min"],
  ["900", "15 min"],
  ["1800", "30 min"],
  ["3600", "1 h"],
  ["14400", "4 h"],
  ["86400", "a day"],
  ["604800", "a week"],
];

/** Begins a run now: as the recording says, or for another length. Over the budget it asks first. */
export function BeginRun({ recording }: { recording: Pick<RecordingView, "id" | "name" | "forSeconds"> }): ReactNode {
  const { id, name, forSeconds } = recording;
  const may = useMay();
  const queries = useQueryClient();
  const [length, setLength] = useState(forSeconds === undefined ? "240" : "");
  const begin = useMutation({
    mutationFn: (anyway: boolean) =>
      call(beginRun, { id }, { ...(length !== "" && { forSeconds: Number(length) }), ...(anyway && { anyway }) }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["recordings"] }),
  });
  const asks =
    begin.error instanceof RequestFailed && begin.error.status === 409 && /budget|anyway/.test(begin.error.message);
  return (
    <span className="inline-block text-[14px]" hidden={!may(beginRun)}>
      <button
        type="button"
        className="act-plain"
        aria-label={`Record now: ${name}`}
        disabled={begin.isPending}
        onClick={() => begin.mutate(false)}
      >
        Record now
      </button>
      <span className="mt-1 block text-[13px] text-quiet">
        for{" "}
        <SelectPart
          label={`how long ${name} runs`}
          value={length}
          options={[...(forSeconds === undefined ? [] : [["", "as it says"] as const]), ...lengths]}
          onChange={setLength}
        />
      </span>
      {begin.error && (
        <span
          role="alert"
          className={`mt-1 block max-w-80 text-left text-[13px] ${asks ? "text-notice" : "text-urgent"}`}
        >
          {begin.error.message.replace(/ \("anyway": true\)/, "")}{" "}
          {asks && (
            <button type="button" className="word-link" onClick={() => begin.mutate(true)}>
              Begin it anyway
            </button>
          )}
        </span>
      )}
    </span>
  );
}
