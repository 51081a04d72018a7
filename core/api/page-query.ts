/** Of a list that grows, the newest first: how many are wanted at once, and those after which one. */
export interface PageQuery {
  readonly most?: number;
  /** The number of the last one of the page before; an answer that has more behind it says so in `Link`. */
  readonly before?: number;
}
