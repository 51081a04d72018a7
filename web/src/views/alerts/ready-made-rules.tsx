import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { makeReadyMadeRule, type RuleView } from "../../../../core/api/rules.ts";
import { limitsWords, watchWords } from "../../../../core/rules/incident-text.ts";
import { type ReadyMadeRule, readyMadeRules } from "../../../../core/rules/ready-made-rules.ts";
import { call } from "../../api/client.ts";
import { countersQuery } from "../../api/queries.ts";

/** Rules of what is gathered here, switched on by one click; where their limits come from stands beside each. */
export function ReadyMadeRules({ rules }: { rules: readonly RuleView[] }): ReactNode {
  const counters = useQuery(countersQuery).data;
  const queries = useQueryClient();
  const [failure, setFailure] = useState<string | null>(null);
  const made = new Set(rules.map(({ readyMade }) => readyMade));
  const names = new Set(counters?.map(({ name }) => name));
  const offered = readyMadeRules.filter(({ id, needs }) => !made.has(id) && needs.every((name) => names.has(name)));
  const take = useMutation({
    mutationFn: (id: string) => call(makeReadyMadeRule, {}, { readyMade: id }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["rules"] }),
    onError: (error) => setFailure(error.message),
  });
  if (offered.length === 0) return null;
  const subjects = [...new Set(offered.map(({ about }) => about))];
  return (
    <section aria-labelledby="ready-made-rules" className="border-t border-hairline py-4">
      <h2 id="ready-made-rules" className="font-bold">
        Ready-made, of what is gathered here
      </h2>
      {failure && (
        <p role="alert" className="py-1 text-urgent">
          {failure}
        </p>
      )}
      {subjects.map((about) => (
        <div key={about}>
          <h3 className="pt-3 text-[13.5px] text-quiet">{about}</h3>
          <ul className="grid gap-x-8 md:grid-cols-2">
            {offered
              .filter((one) => one.about === about)
              .map((one) => (
                <ReadyMade key={one.id} one={one} isBusy={take.isPending} onTake={() => take.mutate(one.id)} />
              ))}
          </ul>
        </div>
      ))}
    </section>
  );
}

function ReadyMade({
  one: { id, from, document },
  isBusy,
  onTake,
}: {
  one: ReadyMadeRule;
  isBusy: boolean;
  onTake: () => void;
}): ReactNode {
  const unit = document.reading.unit ?? "1";
  return (
    <li className="flex items-start justify-between gap-4 border-t border-hairline py-2" data-ready-rule={id}>
      <span className="min-w-0">
        <span className="font-semibold">{document.name}</span>
        <span className="block text-[13px] text-quiet">
          {watchWords(document.watch, unit)}: {limitsWords(document, unit)}. {from}
        </span>
      </span>
      <button
        type="button"
        className="word-link shrink-0"
        disabled={isBusy}
        onClick={onTake}
        aria-label={`switch on: ${document.name}`}
      >
        switch on
      </button>
    </li>
  );
}
