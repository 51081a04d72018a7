/** Whether a text can be stored: PostgreSQL's has no U+0000, and half of a surrogate pair is no sign of any writing. */
export function isStorable(text: string): boolean {
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code === 0) return false;
    if (code < 0xd800 || code > 0xdfff) continue;
    const next = text.charCodeAt(i + 1);
    if (code > 0xdbff || !(next >= 0xdc00 && next <= 0xdfff)) return false;
    i++;
  }
  return true;
}
