/** The fields of a dashboard's document that this version knows, by where they stand. */
const known = {
  document: ["format", "version", "title", "description", "tags", "start", "pickers", "tiles"],
  start: ["lastSeconds", "everySeconds"],
  picker: ["id", "title", "tag", "values", "steps", "choose", "start"],
  tile: [
    "id",
    "title",
    "description",
    "kind",
    "place",
    "reading",
    "table",
    "text",
    "shows",
    "most",
    "meter",
    "limits",
    "states",
    "repeat",
    "ignores",
  ],
  place: ["x", "y", "width", "height"],
  meter: [
    "min",
    "max",
    "orientation",
    "names",
    "values",
    "nameSize",
    "valueSize",
    "decimals",
    "unit",
    "fill",
    "none",
    "order",
  ],
} as const;

/**
 * Where a document has fields of a newer version, or of somebody's own: "tiles[2].glow". They are kept, and have no
 * effect here.
 */
export function unknownFields(document: unknown): readonly string[] {
  const found: string[] = [];
  const look = (value: unknown, names: readonly string[], at: string): Readonly<Record<string, unknown>> => {
    if (typeof value !== "object" || value === null || Array.isArray(value)) return {};
    for (const name of Object.keys(value)) if (!names.includes(name)) found.push(`${at}${name}`);
    return value as Readonly<Record<string, unknown>>;
  };
  const list = (value: unknown): readonly unknown[] => (Array.isArray(value) ? value : []);
  const whole = look(document, known.document, "");
  look(whole["start"], known.start, "start.");
  list(whole["pickers"]).forEach((picker, i) => void look(picker, known.picker, `pickers[${i}].`));
  list(whole["tiles"]).forEach((one, i) => {
    const tile = look(one, known.tile, `tiles[${i}].`);
    look(tile["place"], known.place, `tiles[${i}].place.`);
    look(tile["meter"], known.meter, `tiles[${i}].meter.`);
  });
  return found;
}
