import { type Nothing, route } from "./route.ts";
import type { BriefingLine } from "../briefing/briefing.ts";

export const getBriefing = route("GET", "/briefing")<Nothing, readonly BriefingLine[]>();
