/** The path below which the server is asked, as it says in its page; "" where it has a host of its own. */
export const basePath: string = globalThis.document?.documentElement.dataset["basePath"] ?? "";

/** Where a path below /api is asked. */
export const apiAddress = (path: string): string => `${basePath}/api${path}`;

/** How this page's browser reaches the server. */
export const rootAddress = (): string => window.location.origin + basePath;
