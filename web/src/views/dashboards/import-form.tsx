import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import type { DashboardView } from "../../../../core/api/views.ts";
import { type ReadFile, readDashboardFile } from "../../../../core/dashboards/read-file.ts";
import { ask } from "../../api/client.ts";
import { countersQuery } from "../../api/queries.ts";

/** Takes a dashboard from a file or from what is pasted; before it is kept it is told what it is and what is missing here. */
export function ImportForm({ onClose }: { onClose: () => void }): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const counters = useQuery(countersQuery).data;
  const [text, setText] = useState("");
  const found = text.trim() === "" ? undefined : tried(text, new Set(counters?.map(({ name }) => name)));
  const take = useMutation({
    mutationFn: ({ document }: ReadFile) => ask<DashboardView>("POST", "/dashboards", { document }),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
      void navigate(`/dashboards/${id}`);
    },
  });
  return (
    <section aria-label="A dashboard from a file" className="my-3 border-l-2 border-act py-1 pl-4" data-import>
      <p>
        <label>
          A file <input type="file" accept=".json,application/json" onChange={(event) => void event.target.files?.[0]?.text().then(setText)} className="ml-2" />
        </label>
      </p>
      <label className="mt-2 block">
        <span className="block text-[13px] text-quiet">or its text</span>
        <textarea value={text} spellCheck={false} onChange={(event) => setText(event.target.value)} className="figure h-32 w-full max-w-3xl border border-hairline bg-transparent p-2 text-[12.5px]" />
      </label>
      {found && "fault" in found && <p role="alert" className="text-urgent">{found.fault}</p>}
      {found && "document" in found && (
        <div data-preview>
          <p><strong>{found.document.title}</strong>, {found.document.tiles.length === 1 ? "1 tile" : `${found.document.tiles.length} tiles`}.</p>
          {found.missing.length > 0 && <p className="text-notice">Nothing here reports {found.missing.join(", ")}: {found.emptyTiles.join(", ")} will be empty until something does.</p>}
        </div>
      )}
      {take.error && <p role="alert" className="text-urgent">{take.error.message}</p>}
      <p className="mt-2 flex gap-3">
        <button type="button" className="act" disabled={!found || !("document" in found) || take.isPending} onClick={() => found && "document" in found && take.mutate(found)}>Take it</button>
        <button type="button" className="act-plain" onClick={onClose}>Leave it</button>
      </p>
    </section>
  );
}

function tried(text: string, gathered: ReadonlySet<string>): ReadFile | { readonly fault: string } {
  try {
    return readDashboardFile(text, gathered);
  } catch (error) {
    return { fault: (error as Error).message };
  }
}
