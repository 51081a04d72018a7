/** A page by its address and its words. */
export interface KnownPage {
  readonly to: string;
  readonly words: string;
}

const letters = (text: string) => text.toLowerCase().replace(/[^a-z0-9]/g, "");

/** How many letters two words have in common at their beginnings, as a share of the shorter one. */
function alike(a: string, b: string): number {
  const [one, other] = [letters(a), letters(b)];
  const shorter = Math.min(one.length, other.length);
  if (shorter < leastLetters) return one === other && shorter > 0 ? 1 : 0;
  let same = 0;
  while (same < shorter && one[same] === other[same]) same++;
  return same / shorter;
}

const enough = 0.6;
/** Shorter words resemble only themselves. */
const leastLetters = 3;
const most = 5;

/** Pages whose words or addresses resemble a part of an address that is none; those that resemble it most first. */
export function nearAddresses(pathname: string, pages: readonly KnownPage[]): readonly KnownPage[] {
  const parts = pathname
    .split("/")
    .filter((part) => part !== "")
    .slice(0, 8);
  return pages
    .map((page) => {
      const names = [...page.to.split("/").filter((part) => part !== ""), ...page.words.split(" ")];
      return { page, score: Math.max(0, ...parts.flatMap((part) => names.map((name) => alike(part, name)))) };
    })
    .filter(({ score }) => score >= enough)
    .sort((a, b) => b.score - a.score)
    .slice(0, most)
    .map(({ page }) => page);
}
