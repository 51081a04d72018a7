import { dashboardsQuery } from "../../../api/queries.ts";
import { toldApart } from "../../../../../core/dashboards/told-apart.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { makeDashboard } from "../../../../../core/api/dashboards.ts";
import { mostListedValues } from "../../../../../core/api/counters.ts";
import type { Dashboard } from "../../../../../core/dashboards/dashboard.ts";
import { matched, type Matches, matchKey, missingHere } from "../../../../../core/dashboards/match-here.ts";
import { type ReadFile, readDashboardFile } from "../../../../../core/dashboards/read-file.ts";
import { call } from "../../../api/client.ts";
import { countersQuery } from "../../../api/queries.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";

/**
 * Takes a dashboard from a file or from what is pasted; before it is kept it is told what it is and what is missing
 * here, and what stands for it is chosen.
 */
export function ImportForm({ onClose }: { onClose: () => void }): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const [matches, setMatches] = useState<Matches>({});
  const found = useMemo(() => (text.trim() === "" ? undefined : tried(text)), [text]);
  const titles = (useQuery(dashboardsQuery).data ?? []).map(({ title }) => title);
  const take = useMutation({
    mutationFn: (document: Dashboard) => call(makeDashboard, {}, { document }),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
      void navigate(`/dashboards/${id}`);
    },
  });
  const change = (next: string) => {
    setText(next);
    setMatches({});
    take.reset();
  };
  return (
    <section aria-label="A dashboard from a file" className="my-3 border-l-2 border-act py-1 pl-4" data-import>
      <p>
        <label>
          A file{" "}
          <input
            type="file"
            accept=".json,application/json"
            onChange={(event) => void event.target.files?.[0]?.text().then(change)}
            className="ml-2"
          />
        </label>
      </p>
      <label className="mt-2 block">
        <span className="block text-[13px] text-quiet">or its text</span>
        <textarea
          value={text}
          spellCheck={false}
          onChange={(event) => change(event.target.value)}
          className="figure h-32 w-full max-w-3xl border border-hairline bg-transparent p-2 text-[12.5px]"
        />
      </label>
      {found && "fault" in found && (
        <p role="alert" className="text-urgent">
          {found.fault}
        </p>
      )}
      {found && "document" in found && <Preview found={found} matches={matches} onMatches={setMatches} />}
      {take.error && (
        <p role="alert" className="text-urgent">
          {take.error.message}
        </p>
      )}
      <p className="mt-2 flex gap-3">
        <button
          type="button"
          className="act"
          disabled={!found || !("document" in found) || take.isPending}
          onClick={() =>
            found && "document" in found && take.mutate(toldApart(matched(found.document, matches), titles))
          }
        >
          Take it
        </button>
        <button type="button" className="act-plain" onClick={onClose}>
          Leave it
        </button>
      </p>
    </section>
  );
}

function Preview({
  found: { document, unknown },
  matches,
  onMatches,
}: {
  found: ReadFile;
  matches: Matches;
  onMatches: (matches: Matches) => void;
}): ReactNode {
  const counters = useQuery(countersQuery).data;
  const missing = useMemo(
    () => (counters ? missingHere(document, counters, mostListedValues) : []),
    [document, counters],
  );
  return (
    <div data-preview>
      <p>
        <strong>{document.title}</strong>, {document.tiles.length === 1 ? "1 tile" : `${document.tiles.length} tiles`}.
      </p>
      {unknown.length > 0 && (
        <p className="text-notice">
          This version does not know {unknown.join(", ")}: it is kept, and has no effect here.
        </p>
      )}
      {missing.map((one) => (
        <p key={matchKey(one)} className="leading-8">
          Nothing here{" "}
          {one.kind === "counter" ? (
            <>
              reports <code className="figure text-[13px]">{one.name}</code>
            </>
          ) : (
            <>
              has {one.name}{" "}
              <strong className="font-normal underline decoration-hairline">{one.value || "nothing"}</strong>
            </>
          )}{" "}
          ({one.tiles.join(", ")}):{" "}
          <SelectPart
            label={`in place of ${one.value ?? one.name}`}
            value={matches[matchKey(one)] ?? ""}
            options={[
              ["", "leave it, empty until something does"],
              ...one.choices.map((name): readonly [string, string] => [
                name,
                `take ${counters?.find((counter) => one.kind === "counter" && counter.name === name)?.words ?? name}`,
              ]),
            ]}
            onChange={(choice) => onMatches({ ...matches, [matchKey(one)]: choice })}
          />
        </p>
      ))}
      {missing.length === 0 && counters && <p className="text-quiet">Everything that it reads is gathered here.</p>}
    </div>
  );
}

function tried(text: string): ReadFile | { readonly fault: string } {
  try {
    return readDashboardFile(text);
  } catch (error) {
    return { fault: (error as Error).message };
  }
}
