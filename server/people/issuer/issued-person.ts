import { nameByClaims, roleByClaim } from "../../../core/people/role-by-claim.ts";
import type { Database } from "../../db/pool.ts";
import type { Account } from "../account-rows.ts";
import { changePersonRow, LastOwnerError, NameTakenError } from "../person-rows.ts";
import { NotIn, type Told } from "./issuer.ts";
import { accountOfSubject, insertIssued } from "./issuer-rows.ts";

/**
 * Who somebody is here whom the issuer vouches for: a person whom it brought is what it says of them now, one who linked
 * themselves is what they were made here, and a name that somebody has is never taken over. Throws NotIn.
 */
export async function issuedPerson(database: Database, { issuer, subject, claims, roles }: Told): Promise<Account> {
  const role = roleByClaim(claims, roles);
  const known = await accountOfSubject(database, { issuer, subject });
  if (known?.hasLeft) throw new NotIn("other");
  if (known && !known.isRuled) return known;
  if (!role) throw new NotIn("role");
  if (!known) {
    try {
      return await insertIssued(database, { issuer, subject }, { name: nameByClaims(claims), role });
    } catch (error) {
      throw error instanceof NameTakenError ? new NotIn("name", error) : error;
    }
  }
  if (known.role === role) return known;
  try {
    return { ...known, ...(await changePersonRow(database, known.id, { role })) };
  } catch (error) {
    // The last owner stays one, whatever the issuer says.
    if (error instanceof LastOwnerError) return known;
    throw error;
  }
}
