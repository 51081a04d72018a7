import { spawn } from "node:child_process";
import { existsSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as delay } from "node:timers/promises";
import { freeUdpPort } from "./snmp-agent.ts";

export const hasIpmi = existsSync("/usr/bin/ipmi_sim") && existsSync("/usr/bin/ipmitool");

/**
 * A full sensor record (IPMI 2.0 §43.1): processor temperature in °C, its reading as it stands (M = 1), critical from
 * 95.
 */
const record =
  "0x00 0x00 0x51 0x01 0x33 0x20 0x00 0x01 0x03 0x01 0x67 0x88 0x01 0x01 0xc0 0x7f 0xc0 0x7f 0x3f 0x3f 0x00 0x01 0x00 0x00 0x01 0x00 0x00 0x00 0x00 0x00 0x03 0x60 0xb0 0x00 0xb0 0x00 0x64 0x5f 0x5a 0x00 0x00 0x00 0x03 0x03 0x00 0x00 0x00 0xc8 0x43 0x50 0x55 0x20 0x54 0x65 0x6d 0x70";
const mask = "000111111000000";

/**
 * Starts Debian's simulator of a management controller on loopback: user "ines", password "kestrel"; its processor has
 * 52 °C.
 */
export async function startIpmiController(): Promise<{ readonly port: number; stop(): Promise<void> }> {
  const folder = mkdtempSync(join(tmpdir(), "nubrel-ipmi-"));
  const port = await freeUdpPort();
  const ways = ["callback", "user", "operator", "admin"]
    .map((level) => `    allowed_auths_${level} none md2 md5 straight`)
    .join("\n");
  writeFileSync(
    join(folder, "lan.conf"),
    `name "sim"\nset_working_mc 0x20\n  startlan 1\n    addr 127.0.0.1 ${port}\n    priv_limit admin\n${ways}\n    guid a123456789abcdefa123456789abcdef\n  endlan\n  user 2 true "ines" "kestrel" admin 10 none md2 md5 straight\n`,
  );
  writeFileSync(
    join(folder, "sim.emu"),
    `mc_setbmc 0x20\nmc_add 0x20 0 no-device-sdrs 0x23 9 8 0x9f 0x1291 0xf02 dynsens\nsel_enable 0x20 1000 0x0a\nsensor_add 0x20 0 1 1 1\nsensor_set_event_support 0x20 0 1 enable scanning per-state ${mask} ${mask} ${mask} ${mask}\nsensor_set_value 0x20 0 1 0x34 0\nmain_sdr_add 0x20 ${record}\nmc_enable 0x20\n`,
  );
  const child = spawn(
    "/usr/bin/ipmi_sim",
    ["-c", join(folder, "lan.conf"), "-f", join(folder, "sim.emu"), "-s", join(folder, "state"), "-n"],
    { stdio: "ignore" },
  );
  await delay(300); // it listens at once; its sensors are read from the file after
  return {
    port,
    stop: async () => {
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGKILL");
      await ended;
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
