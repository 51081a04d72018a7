import type { NewSeries } from "../store/series-registry.ts";

/** A total that tests write; seconds unless said. */
export const total = (counter: string, tags: NewSeries["tags"], unit = "s"): NewSeries => ({
  counter,
  tags,
  unit,
  kind: "total",
});

/** A level that tests write; bytes unless said. */
export const level = (counter: string, tags: NewSeries["tags"], unit = "By"): NewSeries => ({
  counter,
  tags,
  unit,
  kind: "level",
});
