import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { makeRecipient } from "../../../../core/api/messages.ts";
import { call } from "../../api/client.ts";
import { meQuery } from "../../api/queries.ts";
import { subscribeThisBrowser, whyNot } from "../../shared/device/subscribe.ts";

/** Has this browser told while no page is open, as a recipient like any other. */
export function AddDevice(): ReactNode {
  const queries = useQueryClient();
  const me = useQuery(meQuery).data;
  const add = useMutation({
    mutationFn: async () => {
      const why = whyNot();
      if (why !== undefined) throw new Error(why);
      const { service, secret } = await subscribeThisBrowser();
      const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
      const when = { severities: [], tags: [], weekdays: [], hours: null, zone };
      const name = `a browser of ${me?.name ?? "somebody"}`;
      return call(makeRecipient, {}, { name, kind: "device", device: { service, words: "" }, secret, when });
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ["recipients"] }),
  });
  return (
    <>
      <button
        type="button"
        className="word-link text-[14px] font-normal"
        disabled={add.isPending}
        onClick={() => add.mutate()}
      >
        {add.isPending ? "asking this browser …" : "on this device …"}
      </button>
      {add.error && (
        <span role="alert" className="basis-full text-[14px] font-normal text-urgent">
          {add.error.message}
        </span>
      )}
    </>
  );
}
