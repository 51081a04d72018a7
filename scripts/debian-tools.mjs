import { existsSync } from "node:fs";
import { runCommand } from "./run-command.mjs";
import { say } from "./told.mjs";

/**
 * Real devices for the tests, from Debian's packages: an SNMP agent, a management controller's simulator with its
 * client, the virtualisation library's test driver, the tools that tell of this machine, those of a mirror of two
 * files, fetchers for the collector, what a person's device does with time codes, a reader of XML, and web servers that
 * stand before Nubrel.
 */
const tools = [
  ["/usr/sbin/snmpd", "snmpd"],
  ["/usr/bin/snmpget", "snmp"],
  ["/usr/bin/ipmi_sim", "openipmi"],
  ["/usr/bin/ipmitool", "ipmitool"],
  ["/lib/nut/upsd", "nut-server"],
  ["/usr/bin/upsc", "nut-client"],
  ["/usr/bin/virsh", "libvirt-clients"],
  ["/usr/bin/free", "procps"],
  ["/usr/bin/iostat", "sysstat"],
  ["/usr/bin/btrfs", "btrfs-progs"],
  ["/usr/sbin/softflowd", "softflowd"],
  ["/usr/bin/ss", "iproute2"],
  ["/usr/bin/wget", "wget"],
  ["/bin/busybox", "busybox"],
  ["/usr/bin/oathtool", "oathtool"],
  ["/usr/bin/zbarimg", "zbar-tools"],
  ["/usr/bin/python3", "python3"],
  ["/usr/sbin/nginx", "nginx-light"],
  ["/usr/sbin/apache2", "apache2"],
];

/** A clock that can be set for one program, for the soak. */
const clockTools = [["/usr/bin/faketime", "libfaketime faketime"]];

/** What a package is tried with: a Debian of its own, what judges it, and what builds and runs a container. */
const packageTools = [
  ["/usr/sbin/debootstrap", "debootstrap"],
  ["/usr/bin/lintian", "lintian"],
  ["/usr/bin/systemd-analyze", "systemd"],
  ["/usr/bin/buildah", "buildah"],
  ["/usr/sbin/runc", "runc"],
  ["/usr/bin/newuidmap", "uidmap"],
];

export const ensurePackageTools = () => ensureTools(packageTools);
export const ensureClockTools = () => ensureTools(clockTools);
export const ensureTestTools = () => ensureTools(tools);

async function ensureTools(wanted) {
  const missing = wanted.filter(([program]) => !existsSync(program)).map(([, name]) => name);
  if (missing.length === 0) return;
  const command = `apt-get update && apt-get install -y --no-install-recommends ${missing.join(" ")}`;
  if (process.getuid() !== 0) {
    say(`Some tests need ${missing.join(", ")} and are left out. Install them once with: sudo sh -c "${command}"`);
    return;
  }
  say(`Installing ${missing.join(", ")} from Debian's packages for the tests (once) ...`);
  const policy = "/usr/sbin/policy-rc.d";
  const own = !existsSync(policy);
  // Packages would start their services on the usual ports, which nobody asked for.
  if (own) await runCommand("sh", ["-c", `printf '#!/bin/sh\\nexit 101\\n' > ${policy} && chmod 755 ${policy}`]);
  try {
    const { code, output } = await runCommand("sh", ["-c", command], {
      env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" },
    });
    if (code !== 0)
      say(`They could not be installed; those tests are left out:\n${output.split("\n").slice(-5).join("\n")}`);
  } finally {
    if (own) await runCommand("rm", ["-f", policy]);
  }
}
