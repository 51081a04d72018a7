/** A row that cannot be read: where it stands, and why. */
export type Damage =
  | {
      readonly origin: "journal";
      readonly segment: number;
      readonly seq: number;
      readonly slot: number;
      readonly reason: string;
    }
  | { readonly origin: "chunk"; readonly series: number; readonly slot: number; readonly reason: string }
  | { readonly origin: "chunk_times"; readonly id: number; readonly slot: number; readonly reason: string }
  | {
      readonly origin: "rollup_5m" | "rollup_1h";
      readonly series: number;
      readonly period: number;
      readonly reason: string;
    };
