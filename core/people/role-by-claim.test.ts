import { describe, expect, test } from "vitest";
import { type ClaimRoles, nameByClaims, roleByClaim } from "./role-by-claim.ts";

const roles: ClaimRoles = {
  ...{ claim: "groups", owner: ["harbour masters"], keeper: ["crane drivers"], viewer: ["guests"], others: null },
};

describe("a role by a claim", () => {
  test.each([
    [["guests", "harbour masters"], "owner"],
    [["crane drivers", "guests"], "keeper"],
    ["guests", "viewer"],
    [["Guests"], undefined],
    [["guests and more"], undefined],
    [[], undefined],
    [undefined, undefined],
    [7, undefined],
    [{ guests: true }, undefined],
    [[["harbour masters"]], undefined],
  ])("%j is %s", (groups, role) => {
    expect(roleByClaim({ groups }, roles)).toBe(role);
  });

  test("others are what is said, and nothing that a claim's own object inherits counts", () => {
    expect(roleByClaim({}, { ...roles, others: "viewer" })).toBe("viewer");
    expect(roleByClaim({}, { ...roles, claim: "constructor.name", owner: ["Object"] })).toBeUndefined();
  });

  test("a claim inside another is found by its path, one with a dot in its name before it", () => {
    const path = { ...roles, claim: "realm.roles" };
    expect(roleByClaim({ realm: { roles: ["guests"] } }, path)).toBe("viewer");
    expect(roleByClaim({ "realm.roles": ["crane drivers"], realm: { roles: ["guests"] } }, path)).toBe("keeper");
    expect(roleByClaim({ realm: "roles" }, path)).toBeUndefined();
  });
});

test("a name is what one is called there (OpenID Connect Core 1.0, §5.1), and never empty or longer than is kept", () => {
  expect(nameByClaims({ sub: "1", preferred_username: " Bo ", name: "Bo Quist" })).toBe("Bo");
  expect(nameByClaims({ sub: "1", name: "Bo Quist" })).toBe("Bo Quist");
  expect(nameByClaims({ sub: "1", email: "bo@quay.example" })).toBe("bo");
  expect(nameByClaims({ sub: "1", name: "" })).toBe("1");
  expect(nameByClaims({ sub: "1", name: "b".repeat(100) })).toHaveLength(64);
  expect(nameByClaims({ sub: "1", name: "I\u0000n\u202ees\u200b" })).toBe("Ines");
  expect(nameByClaims({ sub: "1", name: "\u0000" })).toBe("1");
  expect(nameByClaims({ sub: "1", name: `${"b".repeat(63)}\u{1f6a2}` })).toBe("b".repeat(63));
});
