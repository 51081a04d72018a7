import type { RelayAnswer, RelayTask } from "../../../core/relay/relay-wire.ts";
import { openDevice, snmpCredentials } from "../../gather/open-device.ts";
import { PageAsker } from "../../gather/pull/pull-page.ts";
import { SnmpSession } from "../../gather/snmp/snmp-wire.ts";
import { walkDevice } from "../../gather/snmp/walk-device.ts";
import { sentFailure, sentPage, sentReadings } from "./as-sent.ts";

/** Asks something once, for a person who waits; a failure is an answer too. */
export async function doTask(task: RelayTask, mostPageBytes: number): Promise<RelayAnswer> {
  const began = performance.now();
  const answer = await asked(task, mostPageBytes).catch((error) => sentFailure(error, Date.now()));
  return { task: task.task, tookMs: performance.now() - began, ...answer };
}

async function asked(task: RelayTask, mostPageBytes: number) {
  switch (task.kind) {
    case "page": {
      const asker = new PageAsker(task.address, task.trust, task.credentials);
      try {
        return sentPage(await asker.ask(mostPageBytes));
      } finally {
        await asker.close();
      }
    }
    case "device": {
      const gatherer = openDevice(task.device, task.trust, task.credentials);
      try {
        return sentReadings(await gatherer.gather(Date.now()), true);
      } finally {
        await gatherer.close();
      }
    }
    case "walk": {
      const wire = new SnmpSession(task.device, snmpCredentials(task.credentials));
      try {
        return { kind: "walked" as const, walk: await walkDevice(wire, Date.now(), task.after) };
      } finally {
        wire.close();
      }
    }
  }
}
