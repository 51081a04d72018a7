import { checkAnswer } from "./answer-check.ts";

/** A browser's manners without a browser: keeps the cookie, names its origin. */
export class HttpClient {
  readonly #address: string;
  cookie = "";

  constructor(address: string) {
    this.#address = address;
  }

  async ask(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<{
    readonly status: number;
    // biome-ignore lint/suspicious/noExplicitAny: tests look into answers freely
    readonly body: any;
    readonly headers: Headers;
  }> {
    const response = await fetch(this.#address + path, {
      method,
      headers: {
        Origin: this.#address,
        Cookie: this.cookie,
        ...(body !== undefined && { "Content-Type": "application/json" }),
        ...headers,
      },
      ...(body !== undefined && { body: typeof body === "string" ? body : JSON.stringify(body) }),
    });
    const set = response.headers.get("set-cookie");
    if (set) this.cookie = set.split(";")[0] ?? "";
    const text = await response.text();
    const answer = {
      status: response.status,
      body:
        text === ""
          ? undefined
          : response.headers.get("content-type")?.includes("+json") ||
              response.headers.get("content-type")?.includes("/json")
            ? JSON.parse(text)
            : text,
      headers: response.headers,
    };
    if (response.headers.get("content-type")?.includes("/json")) checkAnswer(method, path, answer.status, answer.body);
    return answer;
  }
}
