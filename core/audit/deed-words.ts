/**
 * What is written down that is no route: the use of a person's token, a sign-in where they
 * had not been, and what is done in the shell.
 */
export const tokenUse = "USE /me/tokens";
export const newPlace = "NEW /me/places";
export const issuerLinked = "NEW /me/issuer";
export const newKeys = "NEW /keys";
export const samplesTaken = "GET /export";
const backupTaken = "GET /backup";
export const deedsBesides: readonly string[] = [tokenUse, newPlace, issuerLinked, newKeys, samplesTaken, backupTaken];

/** What was done where the method alone does not say it. */
const special: Readonly<Record<string, string>> = {
  [tokenUse]: "used a token of theirs",
  [newPlace]: "signed in at a new place",
  [issuerLinked]: "linked themselves to the issuer",
  [newKeys]: "changed the keys",
  [samplesTaken]: "took samples away",
  [backupTaken]: "took a backup",
  "POST /import": "took samples in",
  "POST /profile": "had it sampled what the server does",
  "POST /me/places/:id/known": "knew a new place of theirs",
  "POST /me/changes/:id/known": "knew what was changed of theirs",
  "DELETE /me/places/:id": "ended sign-ins that were not theirs",
  "PUT /door-news": "changed who is told of the door",
  "POST /me/tokens": "made a token of theirs",
  "DELETE /me/tokens/:id": "revoked a token of theirs",
  "POST /session": "signed in",
  "DELETE /session": "signed out",
  "POST /setup": "set Nubrel up",
  "POST /session/passkey": "signed in with a passkey",
  "POST /session/proxy": "signed in by the proxy",
  "GET /session/issuer/back": "came back from the issuer",
  "PUT /issuer": "changed the issuer",
  "DELETE /issuer": "removed the issuer",
  "DELETE /me/issuer": "signs in by the issuer no longer",
  "POST /me/proof": "showed again who they are",
  "POST /me/proof/passkey": "showed a passkey again",
  "POST /me/passkeys": "added a passkey of theirs",
  "DELETE /me/passkeys/:id": "removed a passkey of theirs",
  "DELETE /me/password": "gave their password up",
  "POST /me/codes/begin": "began with time codes",
  "POST /me/codes": "signs in with time codes from here on",
  "DELETE /me/codes": "gave time codes up",
  "PUT /me/password": "changed their password",
  "PUT /people/:id/password": "gave a new password to",
  "DELETE /me/sessions": "ended their sessions",
  "DELETE /me/sessions/:id": "ended a session of theirs",
  "POST /people/invitations": "invited somebody",
  "DELETE /people/invitations/:id": "withdrew an invitation",
  "POST /invitations/:code/accept": "accepted an invitation",
  "GET /sources/:id/raw": "looked at the text that a source gave",
  "GET /recordings/:id/runs/:run/file": "took a run away as a file",
  "DELETE /links/:id": "revoked a link",
  "DELETE /tokens/:id": "revoked a token",
  "GET /audit/file": "took who did what away as a file",
  "POST /events": "noted an event",
  "POST /planning/month/send": "sent the month",
  "POST /planning/speed": "had the speed of a machine measured",
  "POST /planning/watching/:id/leave": "left counters of a source",
  "PUT /condition/clock": "believed the clock",
  "PUT /retention": "changed how long samples are kept",
  "PUT /alerting": "changed alerting",
  "PUT /intake-limits": "changed the limits of what is taken",
  "POST /recordings/files": "made a run of a file",
};
const byMethod: Readonly<Record<string, string>> = {
  POST: "made",
  PUT: "changed",
  PATCH: "changed",
  DELETE: "removed",
  GET: "looked at",
};
/** Last words of paths that are what is done, in the past. */
const actions: Readonly<Record<string, string>> = {
  acknowledge: "acknowledged",
  snooze: "snoozed",
  notes: "noted on",
  close: "closed",
  back: "put back",
  "bring-back": "brought back",
  stop: "stopped",
  pause: "paused",
  renew: "renewed",
  try: "tried",
  preview: "previewed",
  walk: "walked",
  "ready-made": "made ready-made",
};

/** Past forms that are others after "would have". */
const participles: readonly (readonly [RegExp, string])[] = [
  [/^took /, "taken "],
  [/^withdrew /, "withdrawn "],
  [/^showed /, "shown "],
];

/** What somebody was refused, in words that follow a name: "would have changed a rule". */
export function refusedWords(did: string): string {
  const words = deedWords(did);
  const [pattern, participle] = participles.find(([one]) => one.test(words)) ?? [];
  return `would have ${pattern ? words.replace(pattern, participle as string) : words}`;
}

/** What asking a route does, in words that follow a name: "changed a rule". */
export function deedWords(did: string): string {
  const known = special[did];
  if (known !== undefined) return known;
  const [method = "", path = ""] = did.split(" ");
  const parts = path.split("/").filter((part) => part !== "" && !part.startsWith(":"));
  const last = parts.at(-1) ?? "";
  const action = actions[last];
  const thing = thingWords((action === undefined || parts.length === 1 ? last : parts.at(-2)) ?? "");
  if (did === "DELETE /sources/:id/pause") return `let ${thing} go on`;
  return `${action ?? byMethod[method] ?? method} ${thing}`;
}

const kept = new Set(["tariffs", "settings", "sending", "transport", "windows-counters", "table"]);

function thingWords(name: string): string {
  if (name === "people") return "a person";
  const words = name.replaceAll("-", " ");
  if (kept.has(name)) return words;
  const one = words.endsWith("ies") ? `${words.slice(0, -3)}y` : words.replace(/s$/, "");
  return `${/^[aeiou]/.test(one) ? "an" : "a"} ${one}`;
}
