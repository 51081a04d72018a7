import { type ReactNode, useState } from "react";
import { TextError } from "../../../../../core/pages/text-error.ts";
import { delimiters, type ReadTable, readTable, type TableReading } from "../../../../../core/tables/read-table.ts";
import type { Table } from "../../../../../core/tables/table.ts";
import { writeTable } from "../../../../../core/tables/write-table.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { TableRows } from "../tiles/table-rows.tsx";
import { columnKinds, TableCells } from "./table-cells.tsx";

const mostBytes = 2_000_000;

/** A table of one's own: pasted or from a file, confirmed as it was understood, changed in place. */
export function OwnTable({
  table,
  onChange,
  onPaste,
}: {
  table: Table | undefined;
  /** Cells were changed in place. */
  onChange: (table: Table) => void;
  /** Another table stands in its place. */
  onPaste: (table: Table) => void;
}): ReactNode {
  const [pasting, setPasting] = useState<string | null>(table ? null : "");
  if (table && pasting === null) {
    return (
      <div data-own-table>
        <TableCells table={table} onChange={onChange} />
        <p className="mt-1">
          <button type="button" className="word-link text-[13px]" onClick={() => setPasting(writeTable(table))}>
            as text …
          </button>
        </p>
      </div>
    );
  }
  return (
    <div data-own-table>
      <PastedTable
        begin={pasting ?? ""}
        onTake={(taken) => {
          onPaste(taken);
          setPasting(null);
        }}
        onLeave={table ? () => setPasting(null) : undefined}
      />
    </div>
  );
}

function PastedTable({
  begin,
  onTake,
  onLeave,
}: {
  begin: string;
  onTake: (table: Table) => void;
  onLeave: (() => void) | undefined;
}): ReactNode {
  const [text, setText] = useState(begin);
  const [wanted, setWanted] = useState<TableReading>({});
  const [fileFault, setFileFault] = useState<string | null>(null);
  const [read, fault] = text.trim() === "" ? [null, null] : tried(text, wanted);
  const take = async (file: File | undefined) => {
    if (!file) return;
    setFileFault(
      file.size > mostBytes
        ? `${file.name} has ${Math.round(file.size / 1e6)} MB; a dashboard keeps small tables (2 MB at most). Import it as samples under Sources instead.`
        : null,
    );
    if (file.size <= mostBytes) setText(decoded(await file.arrayBuffer()));
    setWanted({});
  };
  return (
    <>
      <p>
        <label>
          A file{" "}
          <input
            type="file"
            accept=".csv,.tsv,.txt,text/csv,text/plain,text/tab-separated-values"
            onChange={(event) => void take(event.target.files?.[0])}
            className="ml-2"
          />
        </label>
      </p>
      {fileFault && (
        <p role="alert" className="text-urgent">
          {fileFault}
        </p>
      )}
      <label className="mt-2 block">
        <span className="block text-[13px] text-quiet">
          or its text: rows of fields (CSV), pasted from a sheet or a file
        </span>
        <textarea
          value={text}
          spellCheck={false}
          onChange={(event) => setText(event.target.value)}
          placeholder={"volume,used [By],capacity [By]\narchive,11400000000,12500000000"}
          className="figure h-28 w-full max-w-3xl border border-hairline bg-transparent p-2 text-[12.5px]"
        />
      </label>
      {fault && (
        <p role="alert" className="text-urgent">
          {fault}
        </p>
      )}
      {read && (
        <div className="mt-2" data-understood>
          <p className="leading-8">
            Understood as {read.table.rows.length === 1 ? "1 row" : `${read.table.rows.length} rows`}, fields parted by{" "}
            <SelectPart
              label="delimiter"
              value={read.delimiter}
              options={delimiters}
              onChange={(delimiter) => setWanted({ ...wanted, delimiter })}
            />
            ,{" "}
            <SelectPart
              label="first row"
              value={read.heading ? "heading" : "data"}
              options={[
                ["heading", "the first row has the names"],
                ["data", "the first row is data"],
              ]}
              onChange={(value) => setWanted({ ...wanted, heading: value === "heading" })}
            />
            {"; "}
            {read.table.columns.map(({ name, kind }, i) => (
              <span key={name}>
                {i > 0 && ", "}
                <strong className="font-normal underline decoration-hairline">{name}</strong> holds{" "}
                <SelectPart
                  label={`what ${name} holds`}
                  value={kind}
                  options={columnKinds}
                  onChange={(chosen) => setWanted({ ...wanted, kinds: { ...wanted.kinds, [name]: chosen as "text" } })}
                />
              </span>
            ))}
            .
          </p>
          {read.notes.map((note) => (
            <p key={note} className="text-[13px] text-notice">
              {note}
            </p>
          ))}
          <div className="h-40 max-w-3xl border-y border-hairline">
            <TableRows table={read.table} title="the table as understood" />
          </div>
        </div>
      )}
      <p className="mt-2 flex gap-3">
        <button type="button" className="act !py-0.5" disabled={!read} onClick={() => read && onTake(read.table)}>
          Use this table
        </button>
        {onLeave && (
          <button type="button" className="act-plain !py-0.5" onClick={onLeave}>
            Leave it as it was
          </button>
        )}
      </p>
    </>
  );
}

function tried(text: string, wanted: TableReading): readonly [ReadTable, null] | readonly [null, string] {
  try {
    return [readTable(text, wanted), null];
  } catch (error) {
    if (error instanceof TextError) return [null, `${error.message.charAt(0).toUpperCase()}${error.message.slice(1)}.`];
    throw error;
  }
}

/** Text of a file: UTF-8, or where it is not, the code page that spreadsheets of western Europe write. */
function decoded(bytes: ArrayBuffer): string {
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder("windows-1252").decode(bytes);
  }
}
