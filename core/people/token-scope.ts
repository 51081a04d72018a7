/**
 * write: for one source. read: what is gathered. manage: everything but people. calendar: the feed of quiet times,
 * whose address it stands in. feed: incidents as a feed or a calendar, the same.
 */
export type TokenScope = "write" | "read" | "manage" | "calendar" | "feed";
