// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import type { MachineView } from "../../../../core/api/machines.ts";
import { machinesQuery } from "../../api/queries.ts";
import { Called } from "./called.tsx";

afterEach(cleanup);

test("a machine stands as people call it, and one that has no other name as itself", () => {
  const client = new QueryClient({ defaultOptions: { queries: { staleTime: Number.POSITIVE_INFINITY } } });
  const machine = (name: string, friendlyName: string) => ({ name, friendlyName }) as MachineView;
  client.setQueryData(machinesQuery.queryKey, [machine("vault", "The vault downstairs"), machine("mast", "")]);
  const { container } = render(
    <QueryClientProvider client={client}>
      <p>
        <Called machine="vault" /> and <Called machine="mast" /> and <Called machine="gone" />
      </p>
    </QueryClientProvider>,
  );
  expect(container.textContent).toBe("The vault downstairs and mast and gone");
  expect(screen.getByTitle("vault").textContent).toBe("The vault downstairs");
});
