import { type ReactNode, useState } from "react";
import type { WalkedNumber, WalkView } from "../../../../core/api/sources.ts";
import type { PickedNumber } from "../../../../core/formats/snmp/picked-numbers.ts";
import type { TakeRule } from "../../../../core/sources/take-rules.ts";
import { Quantity } from "../../ui/quantity.tsx";
import { PickedNumbers } from "../../shared/sources/picked-numbers.tsx";

/** What a person takes of a device. */
export interface Picked {
  readonly modules: readonly string[];
  /** Rows that are left: a tag and its value. */
  readonly left: readonly (readonly [tag: string, value: string])[];
  readonly numbers: readonly PickedNumber[];
}

/** Rows that are left become rules of the source, where they can be seen and taken back. */
export function rulesOf({ left }: Picked): readonly TakeRule[] {
  return left.map(([tag, value]) => ({ do: "leave", counter: "*", where: { [tag]: value } }));
}

const rowTags = ["interface", "mountpoint", "sensor", "guest", "cpu"] as const;
const fewNumbers = 12;

/** Everything that a walk found, to be picked from. */
export function WalkPicker({
  walk,
  picked,
  onChange,
  further,
}: {
  walk: WalkView;
  picked: Picked;
  onChange: (picked: Picked) => void;
  further: ReactNode;
}): ReactNode {
  const toggle = (name: string) =>
    onChange({
      ...picked,
      modules: picked.modules.includes(name) ? picked.modules.filter((one) => one !== name) : [...picked.modules, name],
    });
  return (
    <div className="flex flex-col gap-5" data-walk>
      <p>
        {walk.name && <strong>{walk.name}</strong>}{" "}
        {walk.device && <span className="text-quiet">says of itself: {walk.device}.</span>} Walked{" "}
        <span className="figure">{walk.variables.toLocaleString("en")}</span> variables in{" "}
        <span className="figure">{walk.tookMs < 1000 ? Math.round(walk.tookMs) : (walk.tookMs / 1000).toFixed(1)}</span>{" "}
        {walk.tookMs < 1000 ? "ms" : "s"}.
        {walk.cut && (
          <span className="block text-notice">
            {walk.cut.words} {further}
          </span>
        )}
      </p>
      {walk.groups.map((group) => (
        <section key={group.module} aria-label={group.words}>
          <label className="flex items-center gap-2 font-bold">
            <input
              type="checkbox"
              className="accent-act"
              checked={picked.modules.includes(group.module)}
              onChange={() => toggle(group.module)}
            />{" "}
            {group.words}
          </label>
          <GroupRows group={group} picked={picked} onChange={onChange} />
        </section>
      ))}
      <UnknownNumbers walk={walk} picked={picked} onChange={onChange} />
      <PickedNumbers
        numbers={picked.numbers}
        onChange={(numbers) => onChange({ ...picked, numbers })}
        heldBy={(oid) => walk.unknown.find((one) => one.oid === oid)?.value ?? null}
      />
    </div>
  );
}

function GroupRows({
  group,
  picked,
  onChange,
}: {
  group: WalkView["groups"][number];
  picked: Picked;
  onChange: (picked: Picked) => void;
}): ReactNode {
  const rows = new Map<
    string,
    { tag: string | undefined; value: string; readings: (typeof group.readings)[number][] }
  >();
  for (const reading of group.readings) {
    const tag = rowTags.find((one) => reading.tags[one] !== undefined);
    const value = tag === undefined ? "" : (reading.tags[tag] as string);
    const key = `${tag} ${value}`;
    const row = rows.get(key) ?? { tag, value, readings: [] };
    row.readings.push(reading);
    rows.set(key, row);
  }
  const isOff = !picked.modules.includes(group.module);
  return (
    <table className="mt-1 w-full max-w-4xl text-[14px]" aria-label={group.words}>
      <tbody>
        {[...rows.values()].map(({ tag, value, readings }) => {
          const isLeft = tag !== undefined && picked.left.some(([t, v]) => t === tag && v === value);
          const flip = () =>
            onChange({
              ...picked,
              left: isLeft
                ? picked.left.filter(([t, v]) => !(t === tag && v === value))
                : [...picked.left, [tag as string, value]],
            });
          return (
            <tr
              key={`${tag} ${value}`}
              className={`border-t border-hairline align-top ${isOff || isLeft ? "text-quiet" : ""}`}
            >
              <th scope="row" className="w-48 py-1 pr-4 text-left font-normal">
                {tag === undefined ? (
                  <span className="text-quiet">the whole device</span>
                ) : (
                  <label className="flex items-center gap-2">
                    <input
                      type="checkbox"
                      className="accent-act"
                      disabled={isOff}
                      checked={!isLeft && !isOff}
                      onChange={flip}
                    />{" "}
                    {value}
                  </label>
                )}
              </th>
              <td className="py-1">
                {readings.map((reading) => (
                  <span key={`${reading.counter} ${JSON.stringify(reading.tags)}`} className="mr-5 inline-block">
                    <span className="text-[13px] text-quiet">
                      {reading.words}
                      {reading.tags["direction"] ? `, ${reading.tags["direction"]}` : ""}
                      {reading.tags["state"] ? `, ${reading.tags["state"]}` : ""}
                    </span>{" "}
                    <Quantity value={reading.value} unit={reading.unit} />
                  </span>
                ))}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** A text is taken as the number that stands in it, or as a state. */
function textOf(one: WalkedNumber | undefined): Pick<PickedNumber, "text"> {
  if (!one || one.value !== null) return {};
  return { text: /\d/.test(one.text) ? { as: "number" } : { as: "state", values: { [one.text.trim()]: 1 } } };
}

/** Numbers that nobody has described: found by number or text, picked with a name of one's own. */
function UnknownNumbers({
  walk,
  picked,
  onChange,
}: {
  walk: WalkView;
  picked: Picked;
  onChange: (picked: Picked) => void;
}): ReactNode {
  const [wanted, setWanted] = useState("");
  const [all, setAll] = useState(false);
  const text = wanted.trim().replace(/^\./, "");
  const found = walk.unknown.filter(
    ({ oid, text: value }) =>
      text === "" ||
      oid.startsWith(text) ||
      oid.includes(`.${text}`) ||
      value.toLowerCase().includes(text.toLowerCase()),
  );
  const shown = all ? found : found.slice(0, fewNumbers);
  const pick = (oid: string) =>
    onChange({
      ...picked,
      numbers: [
        ...picked.numbers,
        {
          oid,
          counter: "",
          tags: {},
          kind: "by type",
          factor: 1,
          unit: "1",
          ...textOf(walk.unknown.find((one) => one.oid === oid)),
        },
      ],
    });
  const isPicked = (oid: string) => picked.numbers.some((one) => one.oid === oid);
  const isNumber = /^1(\.\d+)+$/.test(text);
  return (
    <section aria-label="Numbers that nobody has described">
      <h3 className="font-bold">Numbers that nobody has described</h3>
      <p className="flex flex-wrap items-center gap-2 py-1">
        <label>
          find{" "}
          <input
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
            placeholder="1.3.6.1.4.1… or a value"
            className="figure w-80"
          />
        </label>
        {isNumber && !isPicked(text) && !walk.unknown.some(({ oid }) => oid === text) && (
          <button type="button" className="act-plain" onClick={() => pick(text)}>
            Take this number as it is
          </button>
        )}
        <span className="text-quiet">
          {found.length.toLocaleString("en")} of {walk.unknown.length.toLocaleString("en")}
        </span>
      </p>
      <table className="w-full max-w-4xl text-[14px]">
        <tbody>
          {shown.map((one) => (
            <NumberRow key={one.oid} one={one} isPicked={isPicked(one.oid)} onPick={() => pick(one.oid)} />
          ))}
        </tbody>
      </table>
      {!all && found.length > fewNumbers && (
        <button type="button" className="word-link" onClick={() => setAll(true)}>
          Show all
        </button>
      )}
    </section>
  );
}

function NumberRow({ one, isPicked, onPick }: { one: WalkedNumber; isPicked: boolean; onPick: () => void }): ReactNode {
  return (
    <tr className="border-t border-hairline">
      <th scope="row" className="figure w-80 max-w-80 py-1 pr-4 text-left text-[13px] font-normal break-all">
        {one.oid}
      </th>
      <td className="w-56 py-1 pr-4 text-quiet">
        {one.kind === "total" ? "a total" : one.value === null ? "a text" : "a level"} ({one.type})
      </td>
      <td className="figure max-w-72 truncate py-1 pr-4">{one.text}</td>
      <td className="py-1 text-right">
        {(one.value !== null || one.text !== "") &&
          (isPicked ? (
            <span className="text-quiet">picked</span>
          ) : (
            <button type="button" className="word-link" aria-label={`Pick ${one.oid}`} onClick={onPick}>
              Pick
            </button>
          ))}
      </td>
    </tr>
  );
}
