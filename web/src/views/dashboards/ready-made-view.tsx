import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useNavigate, useParams } from "react-router";
import { makeDashboard } from "../../../../core/api/dashboards.ts";
import { type ReadyMade, readyMade } from "../../../../core/dashboards/ready-made.ts";
import { writeDashboardFile } from "../../../../core/dashboards/read-file.ts";
import { call } from "../../api/client.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { saveFile } from "../../ui/save-file.ts";
import { AloneLink, DashboardHead } from "./dashboard-head.tsx";
import { PaperPages } from "./paper/paper-pages.tsx";
import { usePaper } from "./paper/use-paper.ts";
import { PickersBar } from "./pickers-bar.tsx";
import { PicksProvider } from "./picks-provider.tsx";
import { TileGrid } from "./tile-grid.tsx";
import { useStartWindow } from "./use-start-window.ts";

/** A dashboard that comes with the product; it is changed as a copy of one's own. */
export function ReadyMadeView(): ReactNode {
  const { id } = useParams();
  const one = readyMade.find((ready) => ready.id === id);
  if (!one)
    return (
      <p className="py-6">
        No ready-made dashboard has this name.{" "}
        <SectionLink to="/dashboards" className="word-link">
          All dashboards
        </SectionLink>
      </p>
    );
  return <Ready key={one.id} one={one} />;
}

function Ready({ one: { id, document } }: { one: ReadyMade }): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { isPaper, print } = usePaper();
  useStartWindow(document);
  const copy = useMutation({
    mutationFn: () => call(makeDashboard, {}, { document: { ...document, tags: [] } }),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
      void navigate(`/dashboards/${made.id}`);
    },
  });
  if (isPaper)
    return (
      <PicksProvider document={document}>
        <PaperPages document={document} />
      </PicksProvider>
    );
  return (
    <PicksProvider document={document}>
      <DashboardHead document={document} more="Ready-made, kept current by Nubrel.">
        <button type="button" className="word-link" onClick={print}>
          on paper
        </button>
        <SectionLink to={`/wall?show=ready:${id}`} className="word-link">
          on a wall
        </SectionLink>
        <button
          type="button"
          className="word-link"
          onClick={() =>
            saveFile(`${document.title}.json`, new Blob([writeDashboardFile(document)], { type: "application/json" }))
          }
        >
          save as file
        </button>
        <button type="button" className="word-link" disabled={copy.isPending} onClick={() => copy.mutate()}>
          make a copy to change
        </button>
      </DashboardHead>
      {copy.error && (
        <p role="alert" className="text-urgent">
          {copy.error.message}
        </p>
      )}
      <PickersBar />
      <TileGrid
        tiles={document.tiles}
        menu={(tile) => <AloneLink base={`/dashboards/ready-made/${id}`} id={tile.id} title={tile.title} />}
      />
    </PicksProvider>
  );
}
