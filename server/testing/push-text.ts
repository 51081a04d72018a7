/** Sends a text of counters to a server, as a sender with a token does. */
export async function pushText(
  address: string,
  token: string,
  body: string | Buffer<ArrayBuffer>,
  headers: Readonly<Record<string, string>> = {},
): Promise<Response> {
  return await fetch(`${address}/api/push/openmetrics`, {
    ...{ method: "POST", body, signal: AbortSignal.timeout(10_000) },
    headers: { authorization: `Bearer ${token}`, "content-type": "text/plain", ...headers },
  });
}
