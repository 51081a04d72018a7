// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { type ReactNode, useState } from "react";
import { afterEach, describe, expect, test } from "vitest";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { type TileKind, tileKindNames, tileKinds } from "../../../../../core/dashboards/tile-kinds.ts";
import { LimitsForm, StatesForm } from "./limits-form.tsx";
import { LookForm } from "./look-form.tsx";
import { changedBy, type TileChange } from "./tile-change.ts";

afterEach(cleanup);

const tile = (kind: TileKind, more: Partial<Tile> = {}): Tile => ({
  id: "t",
  title: "Load",
  kind,
  place: { x: 0, y: 0, width: 4, height: 4 },
  reading: { sentences: { a: { counter: "system.memory.usage" } } },
  ...more,
});

/** The forms of a tile's looks, with the tile as they change it. */
function Held({ first, tell }: { first: Tile; tell: (tile: Tile) => void }): ReactNode {
  const [held, setHeld] = useState(first);
  tell(held);
  const props = { tile: held, onChange: (change: TileChange) => setHeld(changedBy(held, change)) };
  return (
    <>
      <LookForm {...props} figures={undefined} />
      <StatesForm {...props} />
      <LimitsForm {...props} />
    </>
  );
}

function edited(first: Tile): { readonly now: () => Tile } {
  let now = first;
  render(<Held first={first} tell={(held) => (now = held)} />);
  return { now: () => now };
}

describe.each(tileKindNames)("a tile drawn as %s", (kind) => {
  test("has the controls that its entry says, and no others", () => {
    edited(tile(kind));
    const { limits, most, scale, states } = tileKinds[kind];
    expect(screen.queryByText("set a limit …") !== null, "limits").toBe(limits === true);
    expect(screen.queryByLabelText("how many at most") !== null, "how many").toBe(most === true);
    expect(screen.queryByLabelText("where the scale begins") !== null, "scale").toBe(scale !== undefined);
    expect(screen.queryByLabelText("orientation") !== null, "orientation").toBe(scale === "straight");
    expect(screen.queryByText("States") !== null, "states").toBe(states === true);
  });
});

test("limits are set, changed and left out; what nobody knows of one stays", async () => {
  const { now } = edited(
    tile("meter", { limits: [{ at: 5, compare: "above", severity: "notice", mood: 1 } as never] }),
  );
  await userEvent.selectOptions(screen.getByLabelText("limit 1, above or below"), "below");
  const at = screen.getByLabelText("limit 1, at");
  await userEvent.clear(at);
  await userEvent.type(at, "7,5");
  expect(now().limits).toEqual([{ at: 7.5, compare: "below", severity: "notice", mood: 1 }]);
  await userEvent.click(screen.getByText("another limit …"));
  expect(now().limits?.[1]).toEqual({ at: 0, compare: "above", severity: "urgent" });
  await userEvent.click(screen.getByLabelText("leave out limit 1"));
  expect(now().limits).toHaveLength(1);
});

test("a scale of one's own is a number; a number that is none is not taken", async () => {
  const { now } = edited(tile("dial"));
  await userEvent.selectOptions(screen.getByLabelText("where the scale ends"), "a number");
  const most = screen.getByLabelText("where the scale ends, a number");
  await userEvent.clear(most);
  await userEvent.type(most, "250");
  expect(now().meter).toMatchObject({ max: 250 });
  await userEvent.clear(most);
  await userEvent.type(most, "much");
  expect(now().meter).toMatchObject({ max: 250 });
  await userEvent.selectOptions(screen.getByLabelText("where the scale ends"), "automatic");
  expect(now().meter).not.toHaveProperty("max");
});
