import type { Me } from "../../core/api/people.ts";

/** Who one is, as it is told to them. */
export const meOf = ({ name, role, limits }: Me): Me => ({ name, role, ...(limits && { limits }) });
