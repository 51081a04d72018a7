import { request } from "node:https";

interface Asked {
  readonly method?: string;
  readonly body?: object;
  readonly cookie?: string;
}

/** Asks a server in a container, by its own certificate, on a port of loopback. */
export function ask(
  port: number,
  path: string,
  { method = "GET", body, cookie = "" }: Asked = {},
): Promise<{ status: number; body: never; cookie: string }> {
  return new Promise((resolve, reject) => {
    const origin = `https://127.0.0.1:${port}`;
    const headers = { Origin: origin, Cookie: cookie, "Content-Type": "application/json" };
    const asked = request(origin + path, { method, headers, rejectUnauthorized: false }, async (response) => {
      let text = "";
      for await (const piece of response) text += piece;
      const set = response.headers["set-cookie"] ?? [];
      resolve({
        status: response.statusCode as number,
        body: (text === "" ? undefined : JSON.parse(text)) as never,
        cookie: set.map((one) => one.split(";")[0]).join("; "),
      });
    });
    asked.once("error", reject);
    asked.end(body && JSON.stringify(body));
  });
}
