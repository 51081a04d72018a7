import { emitNumber, type SnmpModule } from "./snmp-module.ts";

const system = "1.3.6.1.2.1.1";
export const systemName = `${system}.5`;
export const systemDescription = `${system}.1`;
const agentUptime = `${system}.3`;
const hostUptime = "1.3.6.1.2.1.25.1.1";

/**
 * What every agent says of itself (RFC 3418), with how long the host has run (RFC 2790) where it says so: the agent
 * alone is restarted more often.
 */
export const systemModule: SnmpModule = {
  name: "system",
  words: "the device itself",
  source: "RFC 3418",
  columns: [[systemDescription], [agentUptime], [systemName], [hostUptime]],
  read(table, emit) {
    emitNumber(emit, "system.uptime", {}, table.has(hostUptime) ? table.number(hostUptime) : table.number(agentUptime));
  },
};
