// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { type ReactNode, useState } from "react";
import { afterEach, expect, test } from "vitest";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { DataPart } from "./data-part.tsx";
import { changedBy } from "./tile-change.ts";

afterEach(cleanup);

const first: Tile = { id: "t", title: "Volumes", kind: "meter", place: { x: 0, y: 0, width: 4, height: 4 } };

function Held({ tell }: { tell: (tile: Tile) => void }): ReactNode {
  const [tile, setTile] = useState(first);
  tell(tile);
  return (
    <DataPart
      tile={tile}
      stepMs={undefined}
      figures={undefined}
      onChange={(change) => setTile(changedBy(tile, change))}
    />
  );
}

test("a pasted table with capacity and minimum draws its value on that scale; a cell that is changed later keeps the look", async () => {
  let now = first;
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Held tell={(tile) => (now = tile)} />
    </QueryClientProvider>,
  );
  const text = "volume,used [By],capacity [By],minimum [By]\narchive,50,100,0\nwork,5,10,2\n";
  fireEvent.change(screen.getByPlaceholderText(/^volume,used/), { target: { value: text } });
  await userEvent.click(screen.getByText("Use this table"));
  const proposed = { column: "used", max: { column: "capacity" }, min: { column: "minimum" } };
  expect(now.meter).toEqual(proposed);
  const cell = screen.getAllByDisplayValue("50")[0] as HTMLInputElement;
  await userEvent.clear(cell);
  await userEvent.type(cell, "60");
  await userEvent.tab();
  expect(now.table?.rows[0]).toEqual(["archive", 60, 100, 0]);
  expect(now.meter).toEqual(proposed);
});
