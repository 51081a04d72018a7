import type { MonthFigures, MonthView } from "../api/month.ts";
import { kilowattHours, money } from "../tariffs/cost-words.ts";
import { presentSpan } from "../units/present.ts";
import { amount } from "./space-words.ts";

/** A month as a mail: its subject, plain text, and HTML that needs nothing from elsewhere. `address` begins its links. */
export function monthMail(
  month: MonthView,
  address: string,
): { readonly subject: string; readonly text: string; readonly html: string } {
  const subject = `${month.month}: the month on one page`;
  const link = `${address}/planning/month?month=${month.month}`;
  const tables = tablesOf(month);
  const text = [
    ...month.words,
    "",
    ...tables.flatMap(({ title, rows }) =>
      rows.length === 0 ? [] : [title, ...rows.map((row) => `  ${row.join("  ")}`), ""],
    ),
    link,
  ].join("\n");
  const html = `<div style="font-family:sans-serif;color:#1d2a33;max-width:44em">
<h1 style="font-size:20px">${escaped(month.month)}</h1>
${month.words.map((one) => `<p style="margin:4px 0">${escaped(one)}</p>`).join("\n")}
${tables.map(tableHtml).join("\n")}
<p style="margin-top:16px"><a href="${escaped(link)}">${escaped(link)}</a></p>
</div>`;
  return { subject, text, html };
}

interface Table {
  readonly title: string;
  readonly rows: readonly (readonly string[])[];
}

function tablesOf({
  figures,
  before,
  incidents,
  energy,
  steadiness,
  fills,
  grew,
  silent,
}: MonthView): readonly Table[] {
  return [
    { title: "This month, and the one before", rows: figureRows(figures, before) },
    {
      title: "Incidents",
      rows: incidents.map(({ machine, rule, severity, lengthMs }) => [machine, rule, severity, presentSpan(lengthMs)]),
    },
    {
      title: "Energy",
      rows: energy.map(({ of, wattHours, cost, estimated }) => [
        of,
        kilowattHours(wattHours),
        cost === null || figures.currency === null ? "–" : money(cost, figures.currency),
        estimated ? "estimated" : "",
      ]),
    },
    {
      title: "Steadiness",
      rows: steadiness.map(({ machine, mean, lowest }) => [machine, mean.toFixed(1), `lowest ${lowest.toFixed(1)}`]),
    },
    {
      title: "What fills",
      rows: fills.map(({ machine, what, share }) => [`${machine}: ${what}`, `${Math.round(share * 100)} %`]),
    },
    {
      title: "What grew",
      rows: grew.map(({ machine, what, by, unit }) => [
        `${machine}: ${what}`,
        `${by < 0 ? "−" : "+"}${amount(Math.abs(by), unit)}`,
      ]),
    },
    {
      title: "Silent",
      rows: silent.map(({ machine, silentMs, times }) => [
        machine,
        presentSpan(silentMs),
        `${times} ${times === 1 ? "time" : "times"}`,
      ]),
    },
  ];
}

/** The month's figures with those of the month before. */
export function figureRows(now: MonthFigures, before: MonthFigures): readonly (readonly [string, string, string])[] {
  const energy = ({ wattHours }: MonthFigures) => (wattHours === null ? "–" : kilowattHours(wattHours));
  const cost = ({ cost: amountOf, currency }: MonthFigures) =>
    amountOf === null || currency === null ? "–" : money(amountOf, currency);
  const rows: [string, (figures: MonthFigures) => string][] = [
    ["incidents", ({ incidents }) => String(incidents)],
    ["urgent", ({ urgent }) => String(urgent)],
    ["raised for", ({ raisedMs }) => presentSpan(raisedMs)],
    ["energy", energy],
    ["cost", cost],
    ["steadiness", ({ steadiness }) => (steadiness === null ? "–" : steadiness.toFixed(1))],
    ["silent for", ({ silentMs }) => presentSpan(silentMs)],
  ];
  return rows.map(([name, of]) => [name, of(now), of(before)]);
}

function tableHtml({ title, rows }: Table): string {
  if (rows.length === 0) return "";
  const cells = (row: readonly string[]) =>
    row
      .map((cell, i) => `<td style="padding:2px 14px 2px 0${i > 0 ? ";text-align:right" : ""}">${escaped(cell)}</td>`)
      .join("");
  return `<h2 style="font-size:15px;margin:14px 0 4px">${escaped(title)}</h2><table style="border-collapse:collapse">${rows.map((row) => `<tr style="border-top:1px solid #d9d3c5">${cells(row)}</tr>`).join("")}</table>`;
}

const escaped = (text: string): string =>
  text.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;").replaceAll('"', "&quot;");
