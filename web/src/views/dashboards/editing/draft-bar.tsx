import { drawsReading } from "../../../../../core/dashboards/tile-kinds.ts";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import { type DashboardView as Saved, makeDashboard, saveDashboard } from "../../../../../core/api/dashboards.ts";
import { withTile } from "../../../../../core/dashboards/arrange-tiles.ts";
import type { Dashboard } from "../../../../../core/dashboards/dashboard.ts";
import { call, RequestFailed } from "../../../api/client.ts";
import { dashboardQuery } from "../../../api/queries.ts";
import { withoutIdle } from "../../../../../core/reading/idle.ts";
import { useToasts } from "../../../shared/toasts.ts";
import { momentText } from "../../../time/moments.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";
import { usePicks } from "../picks-provider.tsx";
import { AddTile } from "./add-tile.tsx";
import type { Draft, DraftControl } from "./draft.ts";
import { PickersForm } from "./pickers-form.tsx";

interface DraftBarProps {
  readonly id: number;
  readonly saved: Saved;
  readonly draft: Draft;
  readonly control: Pick<DraftControl, "change" | "undo" | "redo" | "drop" | "takeBack">;
  readonly onChanging: (id: string | null) => void;
}

/** What has been begun and says nothing yet is not kept. */
const toSave = (document: Dashboard): Dashboard => ({
  ...document,
  tiles: document.tiles.map((tile) => (tile.reading ? { ...tile, reading: withoutIdle(tile.reading) } : tile)),
});

/** What is done with the draft as a whole. */
export function DraftBar({
  id,
  saved,
  draft,
  control: { change, undo, redo, drop, takeBack },
  onChanging,
}: DraftBarProps): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { window, nowMs } = useTime();
  const { picks } = usePicks();
  const toast = useToasts();
  const [pickersShown, setPickersShown] = useState(false);
  const { document } = draft;
  const overtaken = saved.revision !== draft.revision;
  const empty = document.tiles.find(({ kind, reading, table }) => drawsReading(kind) && !reading && !table);
  const save = useMutation({
    mutationFn: (over: number) => call(saveDashboard, { id }, { document: toSave(document), revision: over }),
    onSuccess: async (now) => {
      queries.setQueryData(dashboardQuery(id).queryKey, now);
      onChanging(null);
      drop();
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
    },
    onError: () => queries.invalidateQueries({ queryKey: ["dashboards", id] }),
  });
  const saveAnother = useMutation({
    mutationFn: () => call(makeDashboard, {}, { document: toSave(document) }),
    onSuccess: async (made) => {
      drop();
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
      void navigate(`/dashboards/${made.id}`);
    },
  });
  const failure = save.error ?? saveAnother.error;
  const asStart = (): Dashboard => ({
    ...document,
    ...(window.kind === "following" && {
      start: { lastSeconds: window.lengthMs / 1000, everySeconds: window.everyMs / 1000 },
    }),
    ...(document.pickers && {
      pickers: document.pickers.map((picker) => ({ ...picker, start: picks[picker.id] ?? [] })),
    }),
  });
  return (
    <section aria-label="Draft" className="not-in-print mb-4 border-l-2 border-act py-1 pl-4" data-draft>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <label>
          <span className="block text-[13px] text-quiet">Title</span>
          <TypedInput
            value={document.title}
            maxLength={200}
            required
            onType={(title) => change({ ...document, title })}
            className="w-64 max-w-full"
          />
        </label>
        <label className="grow">
          <span className="block text-[13px] text-quiet">What it is for</span>
          <TypedInput
            value={document.description ?? ""}
            maxLength={2000}
            onType={(description) => change({ ...document, description })}
            className="w-full"
          />
        </label>
        <label>
          <span className="block text-[13px] text-quiet">Tags, with commas</span>
          <TypedInput
            value={(document.tags ?? []).join(", ")}
            onType={(text) =>
              change({
                ...document,
                tags: text
                  .split(",")
                  .map((tag) => tag.trim())
                  .filter(Boolean),
              })
            }
            className="w-44"
          />
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
        <button
          type="button"
          className="word-link"
          disabled={draft.past.length === 0}
          onClick={undo}
          aria-keyshortcuts="z"
        >
          undo
        </button>
        <button
          type="button"
          className="word-link"
          disabled={draft.future.length === 0}
          onClick={redo}
          aria-keyshortcuts="Shift+Z"
        >
          redo
        </button>
        <button
          type="button"
          className="word-link"
          aria-expanded={pickersShown}
          onClick={() => setPickersShown(!pickersShown)}
        >
          pickers …
        </button>
        {(window.kind === "following" || document.pickers) && (
          <button type="button" className="word-link" onClick={() => change(asStart())}>
            {window.kind === "following"
              ? document.pickers
                ? "begin with this window and these picks"
                : "begin with this window"
              : "begin with these picks"}
          </button>
        )}
        <span className="ml-auto flex gap-3">
          <button
            type="button"
            className="act"
            disabled={save.isPending || document.title.trim() === "" || empty !== undefined}
            onClick={() => save.mutate(overtaken ? saved.revision : draft.revision)}
          >
            {overtaken ? "Save over it" : save.isPending ? "saving …" : "Save"}
          </button>
          {overtaken && (
            <button
              type="button"
              className="act-plain"
              disabled={saveAnother.isPending}
              onClick={() => saveAnother.mutate()}
            >
              Save as another
            </button>
          )}
          <button
            type="button"
            className="act-plain"
            onClick={() => {
              onChanging(null);
              drop();
              toast({
                text: `The draft of "${document.title}" was dropped.`,
                action: { words: "Take it back", run: () => takeBack(draft) },
                forMs: 15_000,
              });
            }}
          >
            Drop the draft
          </button>
        </span>
      </p>
      {pickersShown && <PickersForm document={document} onChange={change} />}
      {empty && (
        <p className="mt-1 text-[13.5px] text-quiet">
          "{empty.title || "A tile"}" has nothing to draw yet: give it a table or a counter, or remove it; then the
          draft can be saved.
        </p>
      )}
      {overtaken && (
        <p role="alert" className="mt-1 text-notice">
          {saved.changedBy || "Somebody"} has saved version {saved.revision} at {momentText(saved.changedAtMs, nowMs)},
          since you began with version {draft.revision}. Your draft is kept.
        </p>
      )}
      {failure && !(failure instanceof RequestFailed && failure.status === 409) && (
        <p role="alert" className="mt-1 text-urgent">
          {failure.message}
        </p>
      )}
    </section>
  );
}
