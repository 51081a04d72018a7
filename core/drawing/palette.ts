export type Theme = "day" | "night";

/**
 * The colours of lines, in the order in which they are given out. Each stands out from the page (WCAG 2.2 §1.4.11, 3:1)
 * and every two
 * stay apart also for people who do not see red, green or blue (palette.test.ts computes it).
 */
export const palette: Readonly<Record<Theme, readonly string[]>> = {
  day: ["#1b7b6e", "#2d5480", "#80562e", "#cc5d8a", "#7940e9", "#4c2d28", "#619b16", "#5492c4"],
  night: ["#58c2b0", "#9bb6ff", "#cde29e", "#df4582", "#995dc1", "#7e6326", "#ac9907", "#2e9798"],
};

/** The page's own colours that a canvas needs; styles.css has the same. */
export const pageColours: Readonly<
  Record<
    Theme,
    {
      readonly paper: string;
      readonly ink: string;
      readonly quiet: string;
      readonly hairline: string;
      readonly urgent: string;
      readonly notice: string;
      readonly act: string;
    }
  >
> = {
  day: {
    paper: "#f7f4ed",
    ink: "#1d2a33",
    quiet: "#56626b",
    hairline: "#d9d3c5",
    urgent: "#b3301b",
    notice: "#8a5a00",
    act: "#17695e",
  },
  night: {
    paper: "#12181b",
    ink: "#e7e2d6",
    quiet: "#a3aaa9",
    hairline: "#323b40",
    urgent: "#ff8266",
    notice: "#e0a94a",
    act: "#58c2b0",
  },
};
