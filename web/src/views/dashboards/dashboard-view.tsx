import { noteMade } from "../../ui/made.ts";
import { type Action, ActionsMenu } from "../../ui/actions-menu.tsx";
import { useMay } from "../../shared/people/use-may.ts";
import { makeLink } from "../../../../core/api/links.ts";
import { SharePart } from "./link/share-part.tsx";
import { May } from "../../shared/people/may.tsx";
import { saveDashboard } from "../../../../core/api/dashboards.ts";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useCallback, useState } from "react";
import { useParams } from "react-router";
import type { DashboardRevision, DashboardView as Saved } from "../../../../core/api/dashboards.ts";
import { withPlaces } from "../../../../core/dashboards/arrange-tiles.ts";
import { writeDashboardFile } from "../../../../core/dashboards/read-file.ts";
import { RequestFailed } from "../../api/client.ts";
import { dashboardQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useKeys } from "../../frame/shortcuts.ts";
import { saveFile } from "../../ui/save-file.ts";
import { AloneLink, DashboardHead } from "./dashboard-head.tsx";
import { useDraft } from "./editing/draft.ts";
import { DraftBar } from "./editing/draft-bar.tsx";
import { TileArranger } from "./editing/tile-arranger.tsx";
import { TileEditor } from "./editing/tile-editor.tsx";
import { TileTools } from "./editing/tile-tools.tsx";
import { PaperPages } from "./paper/paper-pages.tsx";
import { usePaper } from "./paper/use-paper.ts";
import { PickersBar } from "./pickers-bar.tsx";
import { PicksProvider } from "./picks-provider.tsx";
import { TileGrid } from "./tile-grid.tsx";
import { useStartWindow } from "./use-start-window.ts";
import { VersionsList } from "./versions-list.tsx";

/** A dashboard of somebody's own. */
export function DashboardView(): ReactNode {
  const id = Number(useParams()["id"]);
  const saved = useQuery(dashboardQuery(id));
  if (saved.error instanceof RequestFailed && saved.error.status === 404)
    return (
      <p className="py-6">
        {saved.error.message}{" "}
        <SectionLink to="/dashboards" className="word-link">
          All dashboards
        </SectionLink>
      </p>
    );
  if (!saved.data)
    return saved.error ? (
      <p role="alert" className="py-6 text-urgent">
        {saved.error.message}
      </p>
    ) : (
      <p className="py-6 text-quiet">reading …</p>
    );
  return <SavedDashboard key={id} saved={saved.data} />;
}

/** Looking at it, at its versions, and editing: a draft that is saved, left and found again, or dropped. */
function SavedDashboard({ saved }: { saved: Saved }): ReactNode {
  const { id } = saved;
  const { draft, begin, change, undo, redo, drop, takeBack } = useDraft(id);
  const [changing, setChanging] = useState<string | null>(null);
  const [versionsShown, setVersionsShown] = useState(false);
  const [isSharing, setSharing] = useState(false);
  const [earlier, setEarlier] = useState<DashboardRevision | null>(null);
  const { isPaper, print } = usePaper();
  const mayShare = useMay()(makeLink);
  useStartWindow(saved.document);
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
  const document = draft?.document ?? earlier?.document ?? saved.document;
  const tile = draft?.document.tiles.find((one) => one.id === changing);
  if (isPaper && !draft)
    return (
      <PicksProvider document={document} id={id}>
        <PaperPages document={document} />
      </PicksProvider>
    );
  const toggleVersions = () => {
    setVersionsShown(!versionsShown);
    setEarlier(null);
  };
  const edit = () => {
    setVersionsShown(false);
    setEarlier(null);
    begin(saved);
  };
  const more: readonly Action[] = [
    { words: "on paper", run: print },
    {
      words: "save as file",
      run: () =>
        saveFile(`${document.title}.json`, new Blob([writeDashboardFile(document)], { type: "application/json" })),
    },
    { words: versionsShown ? "no versions" : "versions", run: toggleVersions },
    ...(mayShare ? [{ words: "show it by a link", run: () => setSharing(!isSharing) }] : []),
  ];
  return (
    <PicksProvider document={document} id={id}>
      <DashboardHead document={document}>
        {!draft && (
          <>
            <ActionsMenu about={document.title} look="word-link" actions={more} />
            <SectionLink to={`/wall?show=${id}`} className="word-link">
              on a wall
            </SectionLink>
            <May ask={saveDashboard}>
              <button type="button" className="word-link" onClick={edit}>
                edit
              </button>
            </May>
          </>
        )}
      </DashboardHead>
      {!draft && isSharing && <SharePart dashboard={saved} />}
      {!draft && versionsShown && <VersionsList saved={saved} shown={earlier?.revision ?? null} onShow={setEarlier} />}
      {!draft && earlier && <p className="mb-3 text-notice">This is version {earlier.revision}, as it was.</p>}
      {draft && (
        <DraftBar
          id={id}
          saved={saved}
          draft={draft}
          control={{ change, undo, redo, drop, takeBack }}
          onChanging={setChanging}
        />
      )}
      <PickersBar />
      {draft && tile ? (
        <TileEditor
          tile={tile}
          onChange={(next) =>
            change({ ...draft.document, tiles: draft.document.tiles.map((one) => (one.id === next.id ? next : one)) })
          }
          onClose={() => {
            noteMade(`tile ${tile.id}`);
            setChanging(null);
          }}
        />
      ) : document.tiles.length === 0 ? (
        <p className="max-w-prose py-4">
          Here tiles will stand.{" "}
          {draft
            ? "Add the first one above: a counter, what happened, a note or a table."
            : "Edit it, and add the first."}
        </p>
      ) : draft ? (
        <TileArranger
          tiles={document.tiles}
          onPlaces={(places) => change(withPlaces(document, places))}
          tools={(one) => (
            <TileTools
              tile={one}
              dashboard={document}
              dashboardId={id}
              onChange={change}
              onEdit={() => setChanging(one.id)}
            />
          )}
        />
      ) : (
        <TileGrid
          tiles={document.tiles}
          menu={({ id: tileId, title }) => <AloneLink base={`/dashboards/${id}`} id={tileId} title={title} />}
        />
      )}
    </PicksProvider>
  );
}
