import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useRef, useState } from "react";
import { openRunFile, type OpenFileQuery } from "../../../../core/api/recordings.ts";
import { sendFile } from "../../api/send-file.ts";
import { useGo } from "../../time/use-go.ts";
import { runWindow } from "./recording-words.ts";

const timeForms = [
  ["", "as found"],
  ["d/m/y", "day first (23/11/2026)"],
  ["m/d/y", "month first (11/23/2026)"],
] as const;

/** How the server ends what it says of a table that could be read in several ways. */
const asksHow = / Say how in the address.*$/s;

/** Opens a file as a run: one of Nubrel's own, a counter log, a table or OpenMetrics. What leaves a doubt is asked. */
export function OpenFile(): ReactNode {
  const queries = useQueryClient();
  const go = useGo();
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const [times, setTimes] = useState("");
  const [decimal, setDecimal] = useState("");
  const open = useMutation({
    mutationFn: (chosen: File) => {
      const query: OpenFileQuery = {
        name: chosen.name.replace(/\.[\w.]{1,24}$/, "").slice(0, 200) || "opened file",
        ...(times !== "" && { times }),
        ...(decimal !== "" && { decimal }),
        ...((times !== "" || decimal !== "") && { zone: -new Date().getTimezoneOffset() }),
      };
      return sendFile(openRunFile, chosen, query);
    },
    onSuccess: async (run) => {
      await queries.invalidateQueries({ queryKey: ["recordings"] });
      go(`/recordings/${run.recordingId}/runs/${run.id}${runWindow(run)}`);
    },
  });
  const choose = (chosen: File | undefined) => {
    if (!chosen) return;
    setFile(chosen);
    open.mutate(chosen);
  };
  return (
    <span className="relative">
      <input
        ref={input}
        type="file"
        className="sr-only"
        tabIndex={-1}
        aria-label="A file with a run"
        onChange={(event) => {
          choose(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      <button
        type="button"
        className="word-link"
        disabled={open.isPending}
        title="A run that Nubrel has saved, a counter log of Windows, a table or OpenMetrics"
        onClick={() => input.current?.click()}
      >
        {open.isPending ? "opening …" : "Open a file …"}
      </button>
      {open.error && (
        <span
          role="alert"
          className="absolute right-0 z-10 mt-2 block w-80 max-w-[90vw] border border-hairline bg-paper p-3 text-[14px]"
        >
          <span className="text-urgent">{open.error.message.replace(asksHow, " Say how it is read.")}</span>
          {asksHow.test(open.error.message) && file && (
            <span className="mt-2 block">
              Times{" "}
              <select
                aria-label="how times are written"
                value={times}
                onChange={(event) => setTimes(event.target.value)}
              >
                {timeForms.map(([value, words]) => (
                  <option key={value} value={value}>
                    {words}
                  </option>
                ))}
              </select>{" "}
              decimals{" "}
              <select
                aria-label="how decimals are written"
                value={decimal}
                onChange={(event) => setDecimal(event.target.value)}
              >
                <option value="">as found</option>
                <option value=".">1.5</option>
                <option value=",">1,5</option>
              </select>{" "}
              <button type="button" className="act-plain" onClick={() => open.mutate(file)}>
                Open it so
              </button>
            </span>
          )}
          <button type="button" className="word-link mt-2 block" onClick={() => open.reset()}>
            close
          </button>
        </span>
      )}
    </span>
  );
}
