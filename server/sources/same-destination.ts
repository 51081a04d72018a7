import type { SourceSettings } from "../../core/sources/source.ts";
import { Problem } from "../http/problem.ts";

/** Where credentials are shown. */
export type Place = Pick<SourceSettings, "address" | "device" | "trust" | "askedFrom">;

/** Kept credentials were asked for another place than theirs. */
export class OtherDestinationError extends Problem {
  override name = "OtherDestinationError";

  constructor() {
    super(
      422,
      "another-destination",
      "The credentials that are kept were entered for another destination, or for one that shows who it is. Enter them again for this one.",
      { errors: [{ path: "credentials", message: "were entered for another destination" }] },
    );
  }
}

/** Where a source's credentials go (the same address is another place at another site), and whether it is looked at who takes them. */
export function destinationOf({ address, device, trust, askedFrom = null }: Place): string {
  const place = address
    ? [address.scheme, address.host.toLowerCase(), address.port]
    : device && "host" in device
      ? [device.kind, device.host.toLowerCase(), device.port]
      : [];
  return JSON.stringify([...place, trust.kind === "unchecked", askedFrom]);
}
