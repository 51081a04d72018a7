import { randomInt } from "node:crypto";

/** Letters and figures that are not mistaken for one another. */
const letters = "abcdefghjkmnpqrstuvwxyz23456789";
const groups = 4;
const perGroup = 5;

/** A code of so many groups of letters: four of them are 99 bits. */
export const newCode = (count: number): string =>
  Array.from({ length: count }, () =>
    Array.from({ length: perGroup }, () => letters[randomInt(letters.length)]).join(""),
  ).join("-");

/** A password that nobody chose. */
export const newPassword = (): string => newCode(groups);
