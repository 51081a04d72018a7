import { createContext } from "react";
import type { Me } from "../../../../core/api/people.ts";

/** Who is signed in, of everything below; nobody where a page was opened by a link. */
export const WhoLooks = createContext<Me | undefined>(undefined);
