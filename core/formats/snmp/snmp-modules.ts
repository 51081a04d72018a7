import { energyModule } from "./energy-module.ts";
import { hostModule } from "./host-module.ts";
import { interfacesModule } from "./interfaces-module.ts";
import { sensorsModule } from "./sensors-module.ts";
import type { SnmpModule } from "./snmp-module.ts";
import { systemModule } from "./system-module.ts";
import { upsModule } from "./ups-module.ts";
import { virtualMachinesModule } from "./virtual-machines-module.ts";

/** Every module that is understood, in the order in which they are shown. */
export const snmpModules: readonly SnmpModule[] = [
  systemModule,
  interfacesModule,
  hostModule,
  sensorsModule,
  energyModule,
  upsModule,
  virtualMachinesModule,
];
export const snmpModuleNames = snmpModules.map(({ name }) => name);
