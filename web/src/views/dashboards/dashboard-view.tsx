import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useCallback, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { changedTile, withPlaces, withTile } from "../../../../core/dashboards/arrange-tiles.ts";
import type { DashboardRevision, DashboardView as Saved } from "../../../../core/api/views.ts";
import { ask, RequestFailed } from "../../api/client.ts";
import { dashboardQuery } from "../../api/queries.ts";
import { SectionLink } from "../../frame/section-link.tsx";
import { useKeys } from "../../frame/shortcuts.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import type { Dashboard } from "../../../../core/dashboards/dashboard.ts";
import { withoutIdle } from "../../sentence/said.ts";
import { TypedInput } from "../../ui/typed-input.tsx";
import { writeDashboardFile } from "../../../../core/dashboards/read-file.ts";
import { saveFile } from "../../ui/save-file.ts";
import { AddTile } from "./add-tile.tsx";
import { useDraft } from "./draft.ts";
import { TileEditor } from "./tile-editor.tsx";
import { TileGrid } from "./tile-grid.tsx";
import { TileTools } from "./tile-tools.tsx";
import { useStartWindow } from "./use-start-window.ts";
import { VersionsList } from "./versions-list.tsx";

/** A dashboard, and its editing: a draft that is saved, left and found again, or dropped. */
export function DashboardView(): ReactNode {
  const id = Number(useParams()["id"]);
  const saved = useQuery(dashboardQuery(id));
  const { draft, begin, change, undo, redo, drop } = useDraft(id);
  const [changing, setChanging] = useState<string | null>(null);
  const [versionsShown, setVersionsShown] = useState(false);
  const [earlier, setEarlier] = useState<DashboardRevision | null>(null);
  useStartWindow(saved.data?.document);
  useKeys(
    useCallback(
      (key) => {
        if (!draft || (key !== "z" && key !== "Z")) return false;
        if (key === "z") undo();
        else redo();
        return true;
      },
      [draft, undo, redo],
    ),
  );
  if (saved.error instanceof RequestFailed && saved.error.status === 404) return <p className="py-6">{saved.error.message} <SectionLink to="/dashboards" className="word-link">All dashboards</SectionLink></p>;
  if (saved.error) return <p role="alert" className="py-6 text-urgent">{saved.error.message}</p>;
  if (!saved.data) return <p className="py-6 text-quiet">reading …</p>;
  const document = draft?.document ?? earlier?.document ?? saved.data.document;
  const tile = draft?.document.tiles.find((one) => one.id === changing);
  return (
    <>
      <div className="mb-3 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
        <h1 className="text-[26px] leading-none font-bold">{document.title}</h1>
        {document.description && <p className="text-quiet">{document.description}</p>}
        {!draft && (
          <p className="not-in-print ml-auto flex gap-4">
            <button type="button" className="word-link" onClick={() => saveFile(`${document.title}.json`, new Blob([writeDashboardFile(document)], { type: "application/json" }))}>save as file</button>
            <button
              type="button"
              className="word-link"
              aria-expanded={versionsShown}
              onClick={() => {
                setVersionsShown(!versionsShown);
                setEarlier(null);
              }}
            >
              versions
            </button>
            <button
              type="button"
              className="word-link"
              onClick={() => {
                setVersionsShown(false);
                setEarlier(null);
                begin(saved.data);
              }}
            >
              edit
            </button>
          </p>
        )}
      </div>
      {!draft && versionsShown && <VersionsList saved={saved.data} shown={earlier?.revision ?? null} onShow={setEarlier} />}
      {!draft && earlier && <p className="mb-3 text-notice">This is version {earlier.revision}, as it was.</p>}
      {draft && <DraftBar id={id} saved={saved.data} draft={draft} control={{ change, undo, redo, drop }} onChanging={setChanging} />}
      {draft && tile ? (
        <TileEditor tile={tile} onChange={(some) => change(changedTile(draft.document, tile.id, some))} onClose={() => setChanging(null)} />
      ) : document.tiles.length === 0 ? (
        <p className="max-w-prose py-4">Here tiles will stand. {draft ? "Add the first one above: a counter, what happened, or a note." : "Edit it, and add the first."}</p>
      ) : draft ? (
        <TileGrid tiles={document.tiles} onPlaces={(places) => change(withPlaces(document, places))} tools={(one) => <TileTools tile={one} dashboard={document} onChange={change} onEdit={() => setChanging(one.id)} />} />
      ) : (
        <TileGrid tiles={document.tiles} />
      )}
    </>
  );
}

interface DraftBarProps {
  readonly id: number;
  readonly saved: Saved;
  readonly draft: NonNullable<ReturnType<typeof useDraft>["draft"]>;
  readonly control: Pick<ReturnType<typeof useDraft>, "change" | "undo" | "redo" | "drop">;
  readonly onChanging: (id: string | null) => void;
}

/** What has been begun and says nothing yet is not kept. */
const toSave = (document: Dashboard): Dashboard => ({ ...document, tiles: document.tiles.map((tile) => (tile.reading ? { ...tile, reading: withoutIdle(tile.reading) } : tile)) });

/** What is done with the draft as a whole. */
function DraftBar({ id, saved, draft, control: { change, undo, redo, drop }, onChanging }: DraftBarProps): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { window, nowMs } = useTime();
  const { document } = draft;
  const overtaken = saved.revision !== draft.revision;
  const save = useMutation({
    mutationFn: (over: number) => ask<Saved>("PUT", `/dashboards/${id}`, { document: toSave(document), revision: over }),
    onSuccess: async (now) => {
      queries.setQueryData(dashboardQuery(id).queryKey, now);
      onChanging(null);
      drop();
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
    },
    onError: () => queries.invalidateQueries({ queryKey: ["dashboards", id] }),
  });
  const saveAnother = useMutation({
    mutationFn: () => ask<Saved>("POST", "/dashboards", { document: toSave(document) }),
    onSuccess: async (made) => {
      drop();
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
      void navigate(`/dashboards/${made.id}`);
    },
  });
  const failure = save.error ?? saveAnother.error;
  return (
    <section aria-label="Draft" className="not-in-print mb-4 border-l-2 border-act py-1 pl-4" data-draft>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <label>
          <span className="block text-[13px] text-quiet">Title</span>
          <TypedInput value={document.title} maxLength={200} required onType={(title) => change({ ...document, title })} className="w-64 max-w-full" />
        </label>
        <label className="grow">
          <span className="block text-[13px] text-quiet">What it is for</span>
          <TypedInput value={document.description ?? ""} maxLength={2000} onType={(description) => change({ ...document, description })} className="w-full" />
        </label>
        <label>
          <span className="block text-[13px] text-quiet">Tags, with commas</span>
          <TypedInput value={(document.tags ?? []).join(", ")} onType={(text) => change({ ...document, tags: text.split(",").map((tag) => tag.trim()).filter(Boolean) })} className="w-44" />
        </label>
      </div>
      <p className="mt-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <AddTile
          onAdd={(tile) => {
            const next = withTile(document, tile);
            change(next);
            onChanging(next.tiles.at(-1)?.id ?? null);
          }}
        />
        <button type="button" className="word-link" disabled={draft.past.length === 0} onClick={undo} aria-keyshortcuts="z">undo</button>
        <button type="button" className="word-link" disabled={draft.future.length === 0} onClick={redo} aria-keyshortcuts="Shift+Z">redo</button>
        {window.kind === "following" && <button type="button" className="word-link" onClick={() => change({ ...document, start: { lastSeconds: window.lengthMs / 1000, everySeconds: window.everyMs / 1000 } })}>begin with this window</button>}
        <span className="ml-auto flex gap-3">
          <button type="button" className="act" disabled={save.isPending || document.title.trim() === ""} onClick={() => save.mutate(overtaken ? saved.revision : draft.revision)}>{overtaken ? "Save over it" : save.isPending ? "saving …" : "Save"}</button>
          {overtaken && <button type="button" className="act-plain" disabled={saveAnother.isPending} onClick={() => saveAnother.mutate()}>Save as another</button>}
          <button
            type="button"
            className="act-plain"
            onClick={() => {
              onChanging(null);
              drop();
            }}
          >
            Drop the draft
          </button>
        </span>
      </p>
      {overtaken && <p role="alert" className="mt-1 text-notice">{saved.changedBy || "Somebody"} has saved version {saved.revision} at {momentText(saved.changedAtMs, nowMs)}, since you began with version {draft.revision}. Your draft is kept.</p>}
      {failure && !(failure instanceof RequestFailed && failure.status === 409) && <p role="alert" className="mt-1 text-urgent">{failure.message}</p>}
    </section>
  );
}
