import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { DashboardListed, DashboardView } from "../../../../core/api/views.ts";
import { emptyDashboard } from "../../../../core/dashboards/dashboard.ts";
import { ask } from "../../api/client.ts";
import { readyMade } from "../../../../core/dashboards/ready-made.ts";
import { countersQuery, dashboardsQuery } from "../../api/queries.ts";
import { useNotices } from "../../frame/notices.tsx";
import { ImportForm } from "./import-form.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

/** Every dashboard: found by words, one's own stars first, with who changed it last. */
export function DashboardsView(): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const list = useQuery(dashboardsQuery);
  const [typed, setTyped] = useState("");
  const [title, setTitle] = useState("");
  const [importing, setImporting] = useState(false);
  const make = useMutation({
    mutationFn: () => ask<DashboardView>("POST", "/dashboards", { document: emptyDashboard(title.trim()) }),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
      void navigate(`/dashboards/${id}`);
    },
  });
  const wanted = typed.trim().toLowerCase();
  const shown = (list.data ?? []).filter(({ title: name, description, tags }) => `${name} ${description} ${tags.join(" ")}`.toLowerCase().includes(wanted));
  return (
    <>
      <div className="flex flex-wrap items-end gap-x-6 gap-y-2 border-b border-ink pt-2 pb-3">
        <h1 className="text-[26px] leading-none font-bold">Dashboards</h1>
        {list.data && list.data.length > 6 && <label className="text-quiet">with the words <input value={typed} onChange={(event) => setTyped(event.target.value)} className="ml-1 w-48" /></label>}
        <form
          className="ml-auto flex items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            make.mutate();
          }}
        >
          <label>
            <span className="block text-[13px] text-quiet">A new one, called</span>
            <input required maxLength={200} value={title} onChange={(event) => setTitle(event.target.value)} className="w-56" />
          </label>
          <button type="submit" className="act" disabled={make.isPending}>Make it</button>
          <button type="button" className="act-plain" aria-expanded={importing} onClick={() => setImporting(!importing)}>From a file …</button>
        </form>
      </div>
      {importing && <ImportForm onClose={() => setImporting(false)} />}
      {make.error && <p role="alert" className="py-2 text-urgent">{make.error.message}</p>}
      {list.error && <p role="alert" className="py-2 text-urgent">{list.error.message}</p>}
      {list.isPending && <p className="py-6 text-quiet">reading …</p>}
      {list.data?.length === 0 && <p className="max-w-prose py-6">Here your dashboards will stand: charts, numbers, lists and notes that you put together. Make the first with a name above.</p>}
      {list.data && list.data.length > 0 && shown.length === 0 && <p className="py-6 text-quiet">None has these words.</p>}
      <ul>
        {shown.map((one) => <DashboardRow key={one.id} dashboard={one} />)}
      </ul>
      <ReadyMadeRows wanted={wanted} />
    </>
  );
}

/** Ready-made ones of what is gathered here: there is no need to search for a file. */
function ReadyMadeRows({ wanted }: { wanted: string }): ReactNode {
  const counters = useQuery(countersQuery).data;
  const names = new Set(counters?.map(({ name }) => name));
  const offered = readyMade.filter(({ needs, document }) => needs.every((name) => names.has(name)) && `${document.title} ${document.description}`.toLowerCase().includes(wanted));
  if (offered.length === 0) return null;
  return (
    <section aria-labelledby="ready-made" className="pt-6">
      <h2 id="ready-made" className="border-b border-ink pb-1 font-bold">Ready-made, of what is gathered here</h2>
      <ul>
        {offered.map(({ id, document }) => (
          <li key={id} className="border-b border-hairline py-2" data-ready-made={id}>
            <Link to={`/dashboards/ready-made/${id}`} className="font-bold hover:underline">{document.title}</Link>
            <span className="ml-3 text-[13.5px] text-quiet">{document.description}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function DashboardRow({ dashboard: { id, title, description, tags, tiles, changedAtMs, changedBy, starred } }: { dashboard: DashboardListed }): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const notice = useNotices();
  const refresh = () => queries.invalidateQueries({ queryKey: ["dashboards"] });
  const star = useMutation({ mutationFn: () => ask("PUT", `/dashboards/${id}/star`, { starred: !starred }), onSuccess: refresh });
  const remove = useMutation({
    mutationFn: () => ask("DELETE", `/dashboards/${id}`),
    onSuccess: async () => {
      notice({ text: `"${title}" was removed.`, action: { words: "Put it back", run: () => void ask("POST", `/dashboards/${id}/back`).then(refresh) }, forMs: 15_000 });
      await refresh();
    },
  });
  const failure = star.error ?? remove.error;
  return (
    <li className="grid gap-x-6 border-b border-hairline py-2.5 sm:grid-cols-[minmax(0,1fr)_14rem_10rem]" data-dashboard={title}>
      <span className="min-w-0">
        <Link to={`/dashboards/${id}`} className="font-bold hover:underline">{title}</Link>
        <span className="block truncate text-[13.5px] text-quiet">{[description, tiles === 1 ? "1 tile" : `${tiles} tiles`, ...tags].filter(Boolean).join(" · ")}</span>
        {failure && <span role="alert" className="block text-[13px] text-urgent">{failure.message}</span>}
      </span>
      <span className="text-[13.5px] text-quiet">changed <span className="figure">{momentText(changedAtMs, nowMs)}</span>{changedBy && ` by ${changedBy}`}</span>
      <span className="flex gap-4">
        <button type="button" className="word-link" aria-pressed={starred} onClick={() => star.mutate()} aria-label={starred ? `starred: take the star off ${title}` : `star ${title}`}>{starred ? "starred" : "star"}</button>
        <button type="button" className="word-link" disabled={remove.isPending} onClick={() => remove.mutate()} aria-label={`remove ${title}`}>remove</button>
      </span>
    </li>
  );
}
