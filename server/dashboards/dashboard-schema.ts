import Joi from "joi";
import { dashboardForm, tableForm, tileForm } from "../../core/dashboards/dashboard-form.ts";
import type { Dashboard } from "../../core/dashboards/dashboard.ts";
import { drawsReading, tileKindNames } from "../../core/dashboards/tile-kinds.ts";
import type { Table } from "../../core/tables/table.ts";
import { joiOfForm } from "../http/joi-of-form.ts";

/** One cell a column, and of its column's kind. */
const fittingTable = (schema: Joi.Schema) =>
  schema
    .custom((made: Table, helpers) => {
      const at = made.rows.findIndex(
        (row) =>
          row.length !== made.columns.length ||
          row.some((cell, i) => cell !== null && (typeof cell === "string") !== (made.columns[i]?.kind === "text")),
      );
      return at < 0 ? made : helpers.error("row", { row: at + 1 });
    })
    .messages({
      row: "{{#label}} has a row ({{#row}}) that does not fit its columns: one cell for each, words in columns of words, numbers elsewhere, null for nothing",
    });

/** Kinds that draw a reading have one, or a table in its place; the others have no table. */
const fittingTile = (schema: Joi.Schema) =>
  schema.when(Joi.object({ kind: Joi.valid(...tileKindNames.filter(drawsReading)) }).unknown(), {
    then: Joi.object().xor("reading", "table"),
    otherwise: Joi.object({ table: Joi.forbidden() }),
  });

/** What is kept as a dashboard: its form, and what no form says. What a newer version says beyond it stays. */
export const dashboardSchema = joiOfForm(dashboardForm, {
  keepsUnknown: true,
  further: new Map([
    [tableForm, fittingTable],
    [tileForm, fittingTile],
  ]),
}) as Joi.ObjectSchema<Dashboard>;
