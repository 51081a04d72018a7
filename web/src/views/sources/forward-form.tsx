import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { changeForward, type ForwardView, makeForward } from "../../../../core/api/forwards.ts";
import { call } from "../../api/client.ts";
import { problemWords } from "../../shared/sources/problem-words.ts";

interface Header {
  readonly name: string;
  readonly value: string;
}

/** What is sent on, and where: made anew, or changed. */
export function ForwardForm({ saved, onClose }: { saved: ForwardView | undefined; onClose: () => void }): ReactNode {
  const queries = useQueryClient();
  const [name, setName] = useState(saved?.name ?? "");
  const [url, setUrl] = useState(saved?.url ?? "");
  const [counters, setCounters] = useState(saved?.counters.join(" ") ?? "system.*");
  const [machine, setMachine] = useState(saved?.machine ?? "*");
  const [seconds, setSeconds] = useState(saved?.everySeconds ?? 15);
  const [headers, setHeaders] = useState<readonly Header[]>(
    saved?.headers.map((one) => ({ name: one, value: "" })) ?? [],
  );
  const [issuer, setIssuer] = useState(saved?.issuer ?? "");
  const save = useMutation({
    mutationFn: () => {
      const named = headers.filter((header) => header.name.trim() !== "");
      const body = {
        ...{ name, url: url.trim(), machine: machine.trim() || "*", everySeconds: seconds, issuer },
        counters: counters.split(/[\s,]+/).filter((one) => one !== ""),
        headers: named.map((header) => header.name.trim()),
        values: Object.fromEntries(
          named.filter(({ value }) => value !== "").map((header) => [header.name.trim(), header.value]),
        ),
        isOn: saved?.isOn ?? true,
      };
      return saved ? call(changeForward, { id: saved.id }, body) : call(makeForward, {}, body);
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["forwards"] });
      onClose();
    },
  });
  const change = (index: number, part: Partial<Header>) =>
    setHeaders(headers.map((header, i) => (i === index ? { ...header, ...part } : header)));
  return (
    <form
      aria-label="What is sent on"
      className="my-4 flex max-w-3xl flex-col gap-3 border-y border-hairline py-4"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <p className="flex flex-wrap gap-4">
        <label>
          call it{" "}
          <input required name="name" maxLength={100} value={name} onChange={(event) => setName(event.target.value)} />
        </label>
        <label className="min-w-0 grow">
          to{" "}
          <input
            required
            name="url"
            type="url"
            maxLength={2000}
            placeholder="https://metrics.example/v1/metrics"
            value={url}
            onChange={(event) => setUrl(event.target.value)}
            className="w-full max-w-md"
          />
        </label>
      </p>
      <p className="flex flex-wrap gap-4">
        <label>
          counters{" "}
          <input
            required
            name="counters"
            value={counters}
            onChange={(event) => setCounters(event.target.value)}
            className="w-72"
          />
        </label>
        <label>
          of machine{" "}
          <input name="machine" value={machine} onChange={(event) => setMachine(event.target.value)} className="w-36" />
        </label>
        <label>
          every{" "}
          <select name="everySeconds" value={seconds} onChange={(event) => setSeconds(Number(event.target.value))}>
            {[5, 15, 60, 300].map((one) => (
              <option key={one} value={one}>
                {one < 60 ? `${one} s` : `${one / 60} min`}
              </option>
            ))}
          </select>
        </label>
      </p>
      <p className="text-[13px] text-quiet">* stands for any signs; several names with a blank between.</p>
      {headers.map((header, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a header is its place in the list
        <p key={i} className="flex flex-wrap gap-3">
          <label>
            header{" "}
            <input
              value={header.name}
              placeholder="Authorization"
              onChange={(event) => change(i, { name: event.target.value })}
            />
          </label>
          <label>
            with{" "}
            <input
              type="password"
              autoComplete="off"
              value={header.value}
              placeholder={saved?.headers.includes(header.name) ? "as it is" : "Bearer …"}
              onChange={(event) => change(i, { value: event.target.value })}
            />
          </label>
          <button type="button" className="word-link" onClick={() => setHeaders(headers.filter((_, at) => at !== i))}>
            without it
          </button>
        </p>
      ))}
      <p>
        <button type="button" className="word-link" onClick={() => setHeaders([...headers, { name: "", value: "" }])}>
          with a header …
        </button>
      </p>
      <details open={issuer !== ""}>
        <summary className="cursor-pointer">it shows a certificate of an authority of its own</summary>
        <textarea
          aria-label="The authority's certificate"
          rows={4}
          className="mt-2 w-full font-mono text-[13px]"
          placeholder="-----BEGIN CERTIFICATE-----"
          value={issuer}
          onChange={(event) => setIssuer(event.target.value)}
        />
      </details>
      <p className="flex gap-3">
        <button type="submit" className="act" disabled={save.isPending}>
          {save.isPending ? "saving …" : saved ? "Keep it so" : "Send it on"}
        </button>
        <button type="button" className="act-plain" onClick={onClose}>
          Leave it
        </button>
      </p>
      {save.error && (
        <p role="alert" className="text-urgent">
          {problemWords(save.error)}
        </p>
      )}
    </form>
  );
}
