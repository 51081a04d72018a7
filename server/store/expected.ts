/** How far apart the samples of a source are meant to come, and how late, ms. */
export interface Expected {
  readonly intervalMs: number;
  readonly lateMs: number;
  /** Whether it comes as often as it is asked or told, and not at a pace of its own. */
  readonly isAsked?: boolean;
}
