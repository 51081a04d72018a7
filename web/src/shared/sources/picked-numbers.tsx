import { NumberField } from "../../ui/number-field.tsx";
import { type ReactNode, useState } from "react";
import type { PickedNumber } from "../../../../core/formats/snmp/picked-numbers.ts";
import { present } from "../../../../core/units/present.ts";

interface PickedNumbersProps {
  readonly numbers: readonly PickedNumber[];
  readonly onChange: (numbers: readonly PickedNumber[]) => void;
  /** What a number holds just now; null where that is not known. */
  readonly heldBy: (oid: string) => number | null;
}

/** Numbers that were picked: a name, how it is taken, what it is multiplied with, its unit, and what comes of it. */
export function PickedNumbers({ numbers, onChange, heldBy }: PickedNumbersProps): ReactNode {
  if (numbers.length === 0) return null;
  const change = (index: number, more: Partial<PickedNumber>) =>
    onChange(numbers.map((one, i) => (i === index ? { ...one, ...more } : one)));
  return (
    <section aria-label="Picked numbers">
      <h3 className="font-bold">Picked numbers</h3>
      <p className="max-w-prose text-quiet">
        A number whose type is a counter is taken as a total and shown as its growth a second; everything else is a
        level and is never turned into a rate.
      </p>
      {numbers.map((one, i) => {
        const value = heldBy(one.oid);
        const shown = value === null ? null : present(value * one.factor, one.unit);
        return (
          <p
            key={one.oid}
            className="flex flex-wrap items-center gap-2 border-t border-hairline py-2"
            data-picked={one.oid}
          >
            <span className="figure text-[13px] break-all text-quiet">{one.oid}</span>
            <label>
              called{" "}
              <input
                required
                value={one.counter}
                placeholder="gate.connections"
                onChange={(event) => change(i, { counter: event.target.value })}
                className="w-52"
              />
            </label>
            {one.text && <TextFields text={one.text} onChange={(text) => change(i, { text })} />}
            {one.text?.as !== "state" && (
              <label>
                as{" "}
                <select
                  value={one.kind}
                  onChange={(event) => change(i, { kind: event.target.value as PickedNumber["kind"] })}
                >
                  <option value="by type">growing or level, by its type</option>
                  <option value="level">a level</option>
                  <option value="total">a total</option>
                </select>
              </label>
            )}
            <span>
              times{" "}
              <NumberField
                label="factor"
                required
                value={Number.isFinite(one.factor) ? one.factor : undefined}
                usual="1"
                className="w-24 text-right"
                onChange={(factor = Number.NaN) => change(i, { factor })}
              />
            </span>
            <label>
              in{" "}
              <input
                value={one.unit}
                onChange={(event) => change(i, { unit: event.target.value })}
                className="w-24"
                aria-label="unit (UCUM)"
                title="UCUM: W, Cel, By, %, 1"
              />
            </label>
            <span aria-live="polite">
              {shown ? (
                <>
                  gives <span className="figure font-bold">{shown.text}</span> {shown.unit}
                </>
              ) : (
                <span className="text-quiet">not known yet</span>
              )}
            </span>
            <button
              type="button"
              className="word-link"
              aria-label={`Leave ${one.oid}`}
              onClick={() => onChange(numbers.filter((_, j) => j !== i))}
            >
              Leave it
            </button>
          </p>
        );
      })}
    </section>
  );
}

/** A text becomes a number, or a state with a value for each of its words. */
function TextFields({
  text,
  onChange,
}: {
  text: NonNullable<PickedNumber["text"]>;
  onChange: (text: NonNullable<PickedNumber["text"]>) => void;
}): ReactNode {
  const [typed, setTyped] = useState(
    text.as === "state"
      ? Object.entries(text.values)
          .map(([words, value]) => `${words} = ${value}`)
          .join(", ")
      : "",
  );
  const read = (typed: string) =>
    Object.fromEntries(
      typed.split(",").flatMap((part) => {
        const at = part.lastIndexOf("=");
        const value = Number(part.slice(at + 1));
        return at > 0 && part.slice(at + 1).trim() !== "" && Number.isFinite(value)
          ? [[part.slice(0, at).trim(), value]]
          : [];
      }),
    );
  return (
    <>
      <label>
        its text gives{" "}
        <select
          aria-label="what its text gives"
          value={text.as}
          onChange={({ target }) =>
            onChange(target.value === "number" ? { as: "number" } : { as: "state", values: read(typed) })
          }
        >
          <option value="number">the number in it</option>
          <option value="state">a state</option>
        </select>
      </label>
      {text.as === "state" && (
        <label>
          where{" "}
          <input
            required
            value={typed}
            placeholder="online = 1, on battery = 0"
            className="w-64"
            onChange={({ target }) => {
              setTyped(target.value);
              onChange({ as: "state", values: read(target.value) });
            }}
          />
        </label>
      )}
    </>
  );
}
