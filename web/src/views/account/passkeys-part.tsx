import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { addPasskey, beginPasskey, type PasskeyView, removePasskey } from "../../../../core/api/passkeys.ts";
import { call } from "../../api/client.ts";
import { makePasskey, passkeysMissing } from "../../api/passkeys.ts";
import { passkeysQuery, waysInQuery } from "../../api/queries.ts";
import { EntryField } from "../../shared/entry/entry-field.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

/** Passkeys of the one who looks: added, named, removed. */
export function PasskeysPart(): ReactNode {
  const queries = useQueryClient();
  const passkeys = useQuery(passkeysQuery);
  const [name, setName] = useState("");
  const refresh = () =>
    Promise.all([passkeysQuery, waysInQuery].map(({ queryKey }) => queries.invalidateQueries({ queryKey })));
  const add = useMutation({
    mutationFn: async () => {
      const { options } = await call(beginPasskey, {});
      return await call(addPasskey, {}, { name, response: await makePasskey(options) });
    },
    onSuccess: () => {
      setName("");
      return refresh();
    },
  });
  const remove = useMutation({ mutationFn: (id: number) => call(removePasskey, { id }), onSuccess: refresh });
  const missing = passkeysMissing();
  const failed = passkeys.error ?? add.error ?? remove.error;
  return (
    <section aria-labelledby="passkeys-title" className="border-t border-hairline py-4">
      <h2 id="passkeys-title" className="font-bold">
        Passkeys
      </h2>
      <p className="max-w-prose text-quiet">
        A phone, a computer or a key that checks your finger, face or number signs you in, without a password and
        without a code.
      </p>
      <ul className="mt-2 max-w-3xl">
        {(passkeys.data ?? []).map((one) => (
          <Passkey key={one.id} passkey={one} remove={() => remove.mutate(one.id)} />
        ))}
      </ul>
      {missing ? (
        <p className="mt-2">{missing}</p>
      ) : (
        <form
          className="mt-3 flex max-w-sm flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            add.mutate();
          }}
        >
          <EntryField
            label="Its name"
            name="name"
            hint="to know it by: phone, key ring"
            problem={undefined}
            value={name}
            maxLength={64}
            autoComplete="off"
            onChange={(event) => setName(event.target.value)}
          />
          <button type="submit" className="act-plain self-start" disabled={add.isPending}>
            {add.isPending ? "your device asks …" : "Add a passkey"}
          </button>
        </form>
      )}
      {failed && (
        <p role="alert" className="py-2 text-urgent">
          {failed.message}
        </p>
      )}
    </section>
  );
}

function Passkey({ passkey, remove }: { passkey: PasskeyView; remove: () => void }): ReactNode {
  const { nowMs } = useTime();
  const { name, host, createdAtMs, lastUsedAtMs, isBackedUp } = passkey;
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 border-t border-hairline py-1.5" data-passkey={name}>
      <span className="max-w-full break-words">{name}</span>
      <span className="text-[14px] text-quiet">
        opens <span className="figure">{host}</span>, added{" "}
        <span className="moment">{momentText(createdAtMs, nowMs)}</span>,{" "}
        {lastUsedAtMs === null ? (
          "never used"
        ) : (
          <>
            last used <span className="moment">{momentText(lastUsedAtMs, nowMs)}</span>
          </>
        )}
        {isBackedUp && ", with a copy where its maker keeps them"}
      </span>
      <button type="button" className="word-link ml-auto" onClick={remove} aria-label={`remove the passkey ${name}`}>
        remove
      </button>
    </li>
  );
}
