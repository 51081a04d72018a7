import { expect, test } from "vitest";
import { deviceWords } from "./device-words.ts";

// Headers from memory, as such programs send them.
test.each([
  [
    "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) HeadlessThing/1.0 Safari/537.36",
    "Safari on Linux",
  ],
  ["curl/8.14.1", "curl/8.14.1"],
  ["", "a program that does not say what it is"],
  ["x".repeat(5000), "x".repeat(100)],
  ["__proto__", "__proto__"],
])("%s", (header, words) => expect(deviceWords(header)).toBe(words));

test("a header made to be slow is read in a moment", () => {
  const began = performance.now();
  for (const part of ["Mozilla/5.0 (", "Version/9", "a/", " ", "Android ("]) deviceWords(part.repeat(8000));
  expect(performance.now() - began).toBeLessThan(2000);
});
