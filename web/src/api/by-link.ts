// A page that was opened by a link shows its secret with every request, and nothing of whoever is signed in here.

let secret: string | undefined;

/** From here on everything is asked by the link. */
export function askByLink(linkSecret: string): void {
  secret = linkSecret;
}

/** The secret of the link that this page was opened by; undefined for people. */
export const linkSecret = (): string | undefined => secret;
