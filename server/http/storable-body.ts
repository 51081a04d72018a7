import type { RequestHandler } from "express";
import { isStorable } from "../../core/text/storable.ts";
import { Problem } from "./problem.ts";

/** Documents of people nest a few deep; what is nested deeper would be taken apart by recursion. */
const deepest = 64;
/** No object of a request has as many names; each that is not known would be told. */
const mostMembers = 2000;

/**
 * Refuses what no route can use: texts that cannot be stored anywhere in an address or a JSON body, and bodies that are
 * nested too deep. Tells the place.
 */
export const storableBody: RequestHandler = (request, _response, next) => {
  if (/%00/.test(request.url))
    throw new Problem(400, "the-address-cannot-be-read", "There is a zero byte (%00) in the address.");
  const fault = faultIn(request.body);
  if (fault)
    throw new Problem(422, "the-request-does-not-fit", `"${fault.path || "body"}" ${fault.message}`, {
      errors: [fault],
    });
  next();
};

/** Without recursion, for it is what guards it. */
function faultIn(body: unknown): { readonly path: string; readonly message: string } | undefined {
  const waiting: { readonly value: unknown; readonly path: string; readonly depth: number }[] = [
    { value: body, path: "", depth: 0 },
  ];
  for (let one = waiting.pop(); one; one = waiting.pop()) {
    const { value, path, depth } = one;
    if (typeof value === "string" && !isStorable(value))
      return { path, message: "has a zero byte or half of a sign in it" };
    if (typeof value !== "object" || value === null) continue;
    if (depth > deepest) return { path: path.slice(0, 200), message: `is nested more than ${deepest} deep` };
    const members = Object.entries(value);
    if (!Array.isArray(value) && members.length > mostMembers)
      return { path, message: `has ${members.length} members; ${mostMembers} are the most` };
    for (const [name, inner] of members) {
      if (!isStorable(name)) return { path, message: "has a name with a zero byte or half of a sign in it" };
      if (typeof inner === "object" || typeof inner === "string")
        waiting.push({ value: inner, path: path === "" ? name : `${path}.${name}`, depth: depth + 1 });
    }
  }
  return undefined;
}
