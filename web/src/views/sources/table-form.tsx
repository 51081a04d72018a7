import { NumberField } from "../../ui/number-field.tsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { changeSource, readTable, type SourceView } from "../../../../core/api/sources.ts";
import { csvRows } from "../../../../core/formats/csv/csv-rows.ts";
import type { TableShape } from "../../../../core/formats/csv/table-shape.ts";
import { timeForms } from "../../../../core/formats/csv/time-text.ts";
import { call } from "../../api/client.ts";
import { settingsOf } from "./settings-of.ts";
import { TriedTable } from "../../shared/sources/tried-table.tsx";

const delimiterWords = { ",": "commas", ";": "semicolons", "\t": "tabs", "|": "upright strokes" } as const;

/** How tables of a source are read: found in a piece of one, shown with what it gives, confirmed by the person. */
export function TableForm({ source }: { source: SourceView }): ReactNode {
  const queries = useQueryClient();
  const [text, setText] = useState("");
  const look = useMutation({
    mutationFn: (shape: TableShape | null) => call(readTable, { id: source.id }, { text, shape }),
  });
  const save = useMutation({
    mutationFn: (csv: TableShape | null) => call(changeSource, { id: source.id }, { ...settingsOf(source), csv }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["sources"] }),
  });
  const shape = look.data?.shape;
  const set = (more: Partial<TableShape>) => shape && look.mutate({ ...shape, ...more });
  return (
    <section aria-labelledby="table-title" className="border-t border-hairline py-4">
      <h2 id="table-title" className="font-bold">
        Tables (CSV)
      </h2>
      <p className="max-w-prose text-quiet">
        {source.csv ? (
          <>
            Read as confirmed: {shapeWords(source.csv)}.{" "}
            <button type="button" className="word-link" onClick={() => save.mutate(null)}>
              Find out each time
            </button>
          </>
        ) : (
          "How a table is read is found out from itself; where that leaves a doubt, it is refused until you have confirmed it here."
        )}
      </p>
      <textarea
        aria-label="a piece of a table"
        rows={4}
        value={text}
        onChange={(event) => setText(event.target.value)}
        placeholder={"time,temperature [Cel]\n2026-11-23T16:00:00Z,21.5"}
        className="figure mt-2 w-full max-w-3xl border border-hairline bg-transparent p-2 text-[13px]"
      />
      <p>
        <button
          type="button"
          className="act-plain"
          disabled={text.trim() === "" || look.isPending}
          onClick={() => look.mutate(null)}
        >
          See how it is read
        </button>
      </p>
      {look.error && (
        <p role="alert" className="py-2 text-urgent">
          {look.error.message}
        </p>
      )}
      {look.data && shape && (
        <div className="pt-3" data-table>
          {look.data.doubts.map((doubt) => (
            <p key={doubt} className="text-notice">
              {doubt}
            </p>
          ))}
          <p className="flex flex-wrap items-center gap-2">
            A {shape.layout} table, apart by{" "}
            <select
              aria-label="delimiter"
              value={shape.delimiter}
              onChange={(event) => set({ delimiter: event.target.value })}
            >
              {Object.entries(delimiterWords).map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </select>
            with decimal{" "}
            <select
              aria-label="decimal sign"
              value={shape.decimal}
              onChange={(event) => set({ decimal: event.target.value as "." | "," })}
            >
              <option value=".">points</option>
              <option value=",">commas</option>
            </select>
            and times in <strong>{shape.timeColumn}</strong> as{" "}
            <select
              aria-label="form of times"
              value={shape.timeForm}
              onChange={(event) => set({ timeForm: event.target.value as TableShape["timeForm"] })}
            >
              {timeForms.map((form) => (
                <option key={form} value={form}>
                  {form}
                </option>
              ))}
            </select>
            ,{" "}
            <NumberField
              label="minutes east of UTC"
              least={-900}
              most={900}
              value={shape.offsetMinutes}
              usual="0"
              className="w-20 text-right"
              onChange={(offsetMinutes = 0) => set({ offsetMinutes })}
            />{" "}
            min east of UTC
          </p>
          {shape.tags && (
            <fieldset className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-1">
              <legend className="text-quiet">
                Columns that tell rows apart, and are tags; the others hold values:
              </legend>
              {columnsOf(text, shape).map((name) => (
                <label key={name} className="flex items-center gap-1">
                  <input
                    type="checkbox"
                    checked={shape.tags?.includes(name) ?? false}
                    onChange={({ target }) =>
                      set({
                        tags: target.checked
                          ? [...(shape.tags ?? []), name]
                          : (shape.tags ?? []).filter((one) => one !== name),
                      })
                    }
                  />
                  {name}
                </label>
              ))}
            </fieldset>
          )}
          <div className="py-3">
            <TriedTable tried={look.data.tried} />
          </div>
          <button type="button" className="act" disabled={save.isPending} onClick={() => save.mutate(shape)}>
            Read its tables so
          </button>
          {save.isSuccess && <span className="ml-3 text-quiet">kept</span>}
          {save.error && (
            <p role="alert" className="py-2 text-urgent">
              {save.error.message}
            </p>
          )}
        </div>
      )}
    </section>
  );
}

/** The names in the heading, but the time's. */
function columnsOf(text: string, { delimiter, timeColumn }: TableShape): readonly string[] {
  const first = csvRows(text, delimiter).next();
  return first.done ? [] : first.value.fields.map((name) => name.trim()).filter((name) => name !== timeColumn);
}

function shapeWords({ layout, delimiter, decimal, timeColumn, timeForm, offsetMinutes, tags }: TableShape): string {
  return `${layout}, apart by ${delimiterWords[delimiter as keyof typeof delimiterWords]}, decimal ${decimal === "." ? "points" : "commas"}, times in ${timeColumn} as ${timeForm}${offsetMinutes === 0 ? "" : `, ${offsetMinutes} min east of UTC`}${tags ? `, ${tags.length === 0 ? "no column is a tag" : `tags are ${tags.join(", ")}`}` : ""}`;
}
