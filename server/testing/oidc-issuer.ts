import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { Provider } from "oidc-provider";

/** An issuer by a library of its own, on loopback, in which everybody's password is right. */
export interface OidcIssuer {
  readonly url: string;
  readonly clientId: string;
  readonly secret: string;
  /** What is said of people, by their login, beyond that. */
  readonly claims: Map<string, Readonly<Record<string, unknown>>>;
  close(): Promise<void>;
}

/** Starts one that sends people back to these addresses. */
export async function startOidcIssuer(backs: readonly string[]): Promise<OidcIssuer> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const url = `http://localhost:${(server.address() as AddressInfo).port}`;
  const claims: OidcIssuer["claims"] = new Map();
  const [clientId, secret] = ["nubrel", "a secret of this test"];
  const client = {
    ...{ client_id: clientId, client_secret: secret, redirect_uris: [...backs] },
    ...{ grant_types: ["authorization_code"], response_types: ["code" as const] },
    token_endpoint_auth_method: "client_secret_post" as const,
  };
  const provider = new Provider(url, {
    clients: [client],
    claims: { openid: ["sub"], profile: ["name", "preferred_username", "groups"] },
    cookies: { keys: ["a key of this test"] },
    pkce: { required: () => true },
    findAccount: (_context, id) => ({ accountId: id, claims: () => ({ sub: id, ...claims.get(id) }) }),
  });
  server.on("request", provider.callback());
  return {
    ...{ url, clientId, secret, claims },
    close: () => new Promise((resolve) => server.close(() => resolve())),
  };
}

/** Goes through an issuer's pages as a browser does, signed in as somebody; answers the address that it leads back to. */
export async function throughIssuer(from: string, login: string, back: string): Promise<string> {
  const cookies = new Map<string, string>();
  let next: { readonly url: string; readonly body?: URLSearchParams } = { url: from };
  for (let steps = 0; steps < 20; steps++) {
    const response = await fetch(next.url, {
      ...(next.body && { method: "POST", body: next.body }),
      headers: { Cookie: [...cookies].map(([name, value]) => `${name}=${value}`).join("; ") },
      redirect: "manual",
    });
    for (const set of response.headers.getSetCookie()) {
      const [name = "", value = ""] = (set.split(";")[0] ?? "").split("=");
      cookies.set(name, value);
    }
    const text = await response.text();
    const location = response.headers.get("location");
    if (location) {
      const url = new URL(location, next.url).href;
      if (url.startsWith(back)) return url;
      next = { url };
      continue;
    }
    const action = /<form[^>]*action="([^"]+)"/.exec(text)?.[1];
    if (action === undefined) throw new Error(`${response.status}: ${text.slice(0, 300)}`);
    const prompt = /name="prompt" value="(\w+)"/.exec(text)?.[1] ?? "";
    next = {
      url: new URL(action, next.url).href,
      body: new URLSearchParams({ prompt, ...(prompt === "login" && { login, password: "any" }) }),
    };
  }
  throw new Error("the issuer leads nowhere");
}
