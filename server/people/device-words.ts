import Bowser from "bowser";

/** The browser and system of a User-Agent header (RFC 9110 §10.1.5), in words; what is no browser is shown as it is. */
export function deviceWords(userAgent: string): string {
  if (userAgent === "") return "a program that does not say what it is";
  const { browser, os } = Bowser.parse(userAgent);
  if (browser.name && os.name) return `${browser.name} on ${os.name}`;
  return userAgent.slice(0, 100);
}
