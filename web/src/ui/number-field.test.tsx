// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, expect, test } from "vitest";
import { NumberField } from "./number-field.tsx";

afterEach(cleanup);

function Late({ fractions }: { fractions: boolean }) {
  const [late, setLate] = useState<number | undefined>(2);
  return (
    <form aria-label="source">
      <NumberField
        label="late"
        name="lateMs"
        required
        least={0}
        most={86_400}
        fractions={fractions}
        value={late}
        usual="5"
        onChange={setLate}
      />
      <output>{late ?? "as measured"}</output>
    </form>
  );
}

const field = () => screen.getByLabelText<HTMLInputElement>("late");
const held = () => screen.getByRole("status").textContent;
const sends = () => screen.getByRole<HTMLFormElement>("form").checkValidity();
async function type(text: string): Promise<void> {
  await userEvent.clear(field());
  await userEvent.type(field(), text);
}

test.each([
  ["1,5", "1.5"],
  ["0.25", "0.25"],
  ["40", "40"],
])("with fractions %s is %s, and is sent under its path", async (text, value) => {
  render(<Late fractions />);
  await type(text);
  expect([held(), sends(), field().name]).toEqual([value, true, "lateMs"]);
});

test.each(["abc", "1.2.3", "-1", "86401", "5 s"])("%s is told, is not sent, and is no other number", async (text) => {
  render(<Late fractions />);
  await type(text);
  expect(screen.getByRole("alert").textContent).not.toBe("");
  expect(sends()).toBe(false);
});

test("without fractions one and a half is told; nothing typed is not sent where a number must be", async () => {
  render(<Late fractions={false} />);
  await type("1,5");
  expect(screen.getByRole("alert").textContent).toBe("a whole number is wanted here");
  await userEvent.clear(field());
  expect([held(), sends()]).toEqual(["as measured", false]);
});
