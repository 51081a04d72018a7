import { ViewTitle } from "../../../ui/view-title.tsx";
import { May } from "../../../shared/people/may.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import { useSearchParts } from "../../../ui/use-search-parts.ts";
import { type DashboardListed, makeDashboard } from "../../../../../core/api/dashboards.ts";
import { emptyDashboard } from "../../../../../core/dashboards/dashboard.ts";
import { call } from "../../../api/client.ts";
import { dashboardsQuery } from "../../../api/queries.ts";
import { DashboardRow } from "./dashboard-row.tsx";
import { ImportForm } from "./import-form.tsx";
import { ReadyMadeRows } from "./ready-made-rows.tsx";
import { WallForm } from "./wall-form.tsx";

const untagged = "without a tag";
/** Fewer are found by eye. */
const manyDashboards = 6;

/** Every dashboard: in folders by tag, found by words, one's own stars first, with who changed it last. */
export function DashboardsView(): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const list = useQuery(dashboardsQuery);
  const [search, setSearch] = useSearchParts();
  const [typed, setTyped] = useState("");
  const [title, setTitle] = useState("");
  const [open, setOpen] = useState<"file" | "wall" | null>(null);
  const make = useMutation({
    mutationFn: () => call(makeDashboard, {}, { document: emptyDashboard(title.trim()) }),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
      void navigate(`/dashboards/${id}`);
    },
  });
  const all = list.data ?? [];
  const folders = foldersOf(all);
  const folder = folders.some(({ name }) => name === search.get("folder")) ? search.get("folder") : null;
  const wanted = typed.trim().toLowerCase();
  const shown = all.filter(
    (one) =>
      isIn(one, folder) && `${one.title} ${one.description} ${one.tags.join(" ")}`.toLowerCase().includes(wanted),
  );
  const choose = (name: string | null) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      if (name === null) next.delete("folder");
      else next.set("folder", name);
      return next;
    });
  return (
    <>
      <div className="flex flex-wrap items-end gap-x-6 gap-y-2 border-b border-ink pt-2 pb-3">
        <ViewTitle words="Dashboards" />
        {all.length > manyDashboards && (
          <label className="text-quiet">
            with the words{" "}
            <input value={typed} onChange={(event) => setTyped(event.target.value)} className="ml-1 w-48" />
          </label>
        )}
        <form
          className="ml-auto flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            make.mutate();
          }}
        >
          <May ask={makeDashboard}>
            <label>
              <span className="block text-[13px] text-quiet">A new one, called</span>
              <input
                required
                maxLength={200}
                name="document.title"
                value={title}
                onChange={(event) => setTitle(event.target.value)}
                className="w-56"
              />
            </label>
            <button type="submit" className="act" disabled={make.isPending}>
              Make it
            </button>
            <button
              type="button"
              className="act-plain"
              aria-expanded={open === "file"}
              onClick={() => setOpen(open === "file" ? null : "file")}
            >
              From a file …
            </button>
          </May>
          <button
            type="button"
            className="act-plain"
            aria-expanded={open === "wall"}
            onClick={() => setOpen(open === "wall" ? null : "wall")}
          >
            On a wall …
          </button>
        </form>
      </div>
      {open === "file" && <ImportForm onClose={() => setOpen(null)} />}
      {open === "wall" && <WallForm onClose={() => setOpen(null)} />}
      {make.error && (
        <p role="alert" className="py-2 text-urgent">
          {make.error.message}
        </p>
      )}
      {list.error && (
        <p role="alert" className="py-2 text-urgent">
          {list.error.message}
        </p>
      )}
      {list.isPending && <p className="py-6 text-quiet">reading …</p>}
      {folders.length > 1 && (
        <nav aria-label="Folders by tag" className="flex flex-wrap gap-x-5 gap-y-1 py-2" data-folders>
          <button
            type="button"
            aria-pressed={folder === null}
            className={folder === null ? "font-bold" : "text-quiet hover:text-ink"}
            onClick={() => choose(null)}
          >
            all <span className="figure">{all.length}</span>
          </button>
          {folders.map(({ name, count }) => (
            <button
              key={name}
              type="button"
              aria-pressed={folder === name}
              className={folder === name ? "font-bold" : "text-quiet hover:text-ink"}
              onClick={() => choose(name)}
            >
              {name} <span className="figure">{count}</span>
            </button>
          ))}
        </nav>
      )}
      {list.data?.length === 0 && (
        <p className="max-w-prose py-6">
          Here your dashboards will stand: charts, numbers, lists and notes that you put together. Make the first with a
          name above.
        </p>
      )}
      {all.length > 0 && shown.length === 0 && <p className="py-6 text-quiet">None has these words.</p>}
      <ul>
        {shown.map((one) => (
          <DashboardRow key={one.id} dashboard={one} />
        ))}
      </ul>
      {folder === null && <ReadyMadeRows wanted={wanted} />}
    </>
  );
}

const isIn = ({ tags }: DashboardListed, folder: string | null) =>
  folder === null || (folder === untagged ? tags.length === 0 : tags.includes(folder));

/** A folder a tag, in order of their names, and one for what has none. */
function foldersOf(all: readonly DashboardListed[]): readonly { readonly name: string; readonly count: number }[] {
  const names = [...new Set(all.flatMap(({ tags }) => tags))].sort((a, b) => a.localeCompare(b));
  return [...names, ...(all.some(({ tags }) => tags.length === 0) ? [untagged] : [])].map((name) => ({
    name,
    count: all.filter((one) => isIn(one, name)).length,
  }));
}
