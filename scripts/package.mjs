// `npm run package`: makes dist/package/nubrel_VERSION_all.deb, and a plain archive of the same. Built server and
// interface, and the npm packages that run them; for amd64 and arm64.
import {
  chmodSync,
  copyFileSync,
  cpSync,
  lutimesSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { dirname, extname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { gzipSync } from "node:zlib";
import { ensureBuilt } from "./build.mjs";
import { newestChanges } from "./changelog.mjs";
import { bashCompletion, manualPage, zshCompletion } from "./command-words.mjs";
import { ensureNodePackages } from "./node-packages.mjs";
import { runCommand } from "./run-command.mjs";
import { runMain, say, Told } from "./told.mjs";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const architectures = ["x64", "arm64"];
/**
 * What runs nothing: types, maps back to sources, settings of other programs; of npm packages their tests, examples and
 * words (licenses stay), and the compiler that one could use.
 */
const needless = [
  /\.d\.[cm]?ts$|\.map$|\.tsbuildinfo$/,
  /\/node_modules\/.*\/\.[^/]+$/,
  /\/node_modules\/(@[^/]+\/)?[^/]+\/(tests?|docs?|examples?|benchmarks?|types\/tests)$/,
  /\/node_modules\/(?!.*licen[cs]e).*\.(md|html|sh)$/i,
];
const needlessPackages = ["typescript", "@types"];
const isWanted = (path) => !needless.some((one) => one.test(path));
const maintainer = "The Nubrel maintainers <maintainers@nubrel.example>";

await runMain(async () => {
  const { values } = parseArgs({ options: { version: { type: "string" }, to: { type: "string" } } });
  const own = JSON.parse(readFileSync(join(root, "package.json"), "utf8"));
  const version = values.version ?? own.version;
  const folder = values.to ?? join(root, "dist/package");
  await ensureNodePackages(root);
  await ensureBuilt(root);
  const stage = mkdtempSync(join(tmpdir(), "nubrel-package-"));
  try {
    const debian = join(stage, "debian");
    const program = join(debian, "usr/lib/nubrel");
    say("Putting the program together ...");
    await putProgram(program, { ...own, version });
    const at = await changedAt();
    mkdirSync(folder, { recursive: true });
    const archive = join(folder, `nubrel-${version}.tar.gz`);
    settle(program, at);
    await done("tar", [
      ...["--create", "--gzip", "--file", archive, "--sort=name", "--owner=0", "--group=0", "--numeric-owner"],
      ...["--directory", dirname(program), "--transform", `s,^nubrel,nubrel-${version},`, "nubrel"],
    ]);
    putDebian(debian, version, at);
    settle(debian, at);
    const deb = join(folder, `nubrel_${version}_all.deb`);
    await done("dpkg-deb", ["--root-owner-group", "-Zxz", "--build", debian, deb], {
      SOURCE_DATE_EPOCH: String(at),
    });
    for (const file of [archive, deb]) say(`${file}, ${(statSync(file).size / 1e6).toFixed(1)} MB`);
    return 0;
  } finally {
    rmSync(stage, { recursive: true, force: true });
  }
});

/** The program in one folder: it starts there by bin/nubrel. */
async function putProgram(program, own) {
  const put = (from, to = from) => cpSync(join(root, from), join(program, to), { recursive: true, filter: isWanted });
  mkdirSync(program, { recursive: true });
  for (const from of ["dist/server", "dist/web", "collector", "server/db/migrations", "LICENSE"]) put(from);
  put("bin/nubrel");
  for (const file of reachedFrom(["start.mjs", "nubrel.mjs"])) put(`scripts/${file}`);
  const { name, version, description, license, type, engines, dependencies } = own;
  const said = { name, version, description, license, private: true, type, engines, dependencies };
  writeFileSync(join(program, "package.json"), `${JSON.stringify(said, null, 2)}\n`);
  for (const cpu of architectures) await putPackages(program, cpu);
}

/** npm packages of one kind of machine; what is the same for all is there once. */
async function putPackages(program, cpu) {
  const folder = mkdtempSync(join(tmpdir(), "nubrel-npm-"));
  try {
    for (const file of ["package.json", "package-lock.json", ".npmrc"])
      copyFileSync(join(root, file), join(folder, file));
    await done(
      "npm",
      [
        ...["install", "--omit=dev", "--no-save", "--no-audit", "--no-fund", "--loglevel=error", "--ignore-scripts"],
        ...["--os=linux", "--libc=glibc", `--cpu=${cpu}`],
      ],
      {},
      folder,
    );
    for (const name of needlessPackages) rmSync(join(folder, "node_modules", name), { recursive: true, force: true });
    rmSync(join(folder, "node_modules/.bin"), { recursive: true, force: true });
    rmSync(join(folder, "node_modules/.package-lock.json"), { force: true });
    cpSync(join(folder, "node_modules"), join(program, "node_modules"), { recursive: true, filter: isWanted });
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** The scripts that these import, and those in turn. */
function reachedFrom(files) {
  const found = new Set();
  const visit = (file) => {
    if (found.has(file)) return;
    found.add(file);
    for (const [, next] of readFileSync(join(root, "scripts", file), "utf8").matchAll(/from "\.\/([\w-]+\.mjs)"/g))
      visit(next);
  };
  files.forEach(visit);
  return [...found];
}

/** What Debian's package has besides: the command, the service, its settings, words about it, and what is done with it. */
function putDebian(debian, version, at) {
  const date = new Date(at * 1000).toISOString().slice(0, 10);
  const write = (path, text, mode = 0o644) => {
    mkdirSync(dirname(join(debian, path)), { recursive: true });
    writeFileSync(join(debian, path), text, { mode });
  };
  const packaged = (name) => readFileSync(join(root, "packaging", name));
  const gzip = (text) => gzipSync(text, { level: 9 });
  mkdirSync(join(debian, "usr/bin"), { recursive: true });
  symlinkSync("../lib/nubrel/bin/nubrel", join(debian, "usr/bin/nubrel"));
  for (const unit of ["nubrel.service", "nubrel-relay.service"])
    write(`usr/lib/systemd/system/${unit}`, packaged(unit));
  write("etc/nubrel/nubrel.env", packaged("nubrel.env"));
  write("usr/share/man/man1/nubrel.1.gz", gzip(manualPage(version, date)));
  write("usr/share/bash-completion/completions/nubrel", bashCompletion());
  write("usr/share/zsh/vendor-completions/_nubrel", zshCompletion());
  const about = "usr/share/doc/nubrel";
  write(`${about}/examples/drives.conf`, packaged("drives.conf"));
  for (const name of ["nginx.conf", "apache2.conf"])
    write(`${about}/examples/${name}`, readFileSync(join(root, "docs/proxy", name)));
  for (const name of ["operate.md", "api.md", "guide.md", "alerts.md", "security.md"])
    write(`${about}/${name}.gz`, gzip(readFileSync(join(root, "docs", name))));
  write(`${about}/another-site.md.gz`, gzip(readFileSync(join(root, "docs/connect/another-site.md"))));
  write(`${about}/copyright`, copyright());
  write(`${about}/changelog.gz`, gzip(changelog(version, at)));
  write("usr/share/lintian/overrides/nubrel", packaged("lintian-overrides"));
  for (const name of ["postinst", "prerm", "postrm"]) write(`DEBIAN/${name}`, packaged(name), 0o755);
  write("DEBIAN/templates", packaged("templates"));
  write("DEBIAN/conffiles", "/etc/nubrel/nubrel.env\n");
  write("DEBIAN/control", control(version, debian));
}

function control(version, debian) {
  return `Package: nubrel
Version: ${version}
Section: admin
Priority: optional
Architecture: all
Maintainer: ${maintainer}
Installed-Size: ${Math.ceil(bytesOf(debian) / 1024)}
Pre-Depends: init-system-helpers (>= 1.54~)
Depends: adduser, debconf (>= 0.5) | debconf-2.0, libc6 (>= 2.28), nodejs (>= 20.19), postgresql
Suggests: smartmontools, ipmitool, nut-client
Homepage: https://nubrel.example
Description: counters of a few self-hosted machines, gathered, charted and watched
 Nubrel gathers counters of hosts, hypervisors, storage and containers into a
 time-series store of its own on PostgreSQL, charts them on dashboards, and
 tells when a limit is passed.
 .
 It finds out what was different when something was slow, foretells when disks
 are full, and works out what machines cost. Linux and Windows machines,
 network devices, management controllers and whatever speaks OpenTelemetry or
 OpenMetrics are connected in its interface, without a file to edit.
`;
}

function copyright() {
  const license = readFileSync(join(root, "LICENSE"), "utf8");
  const holder = license.match(/^Copyright \(c\) (.*)$/m)?.[1];
  const text = license
    .split("\n")
    .slice(license.split("\n").findIndex((line) => line.startsWith("Permission")))
    .join("\n")
    .trim();
  return `Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/
Upstream-Name: Nubrel
Comment: The npm packages in /usr/lib/nubrel/node_modules stand there each with the license that it is under.

Files: *
Copyright: ${holder}
License: Expat

License: Expat
${text
  .split("\n")
  .map((line) => ` ${line.trim() || "."}`)
  .join("\n")}
`;
}

/** The newest changes as Debian writes them (deb-changelog(5)). */
function changelog(version, at) {
  const lines = newestChanges(readFileSync(join(root, "CHANGELOG.md"), "utf8"));
  return `nubrel (${version}) stable; urgency=medium

${lines.map((line) => folded(line).join("\n    ").replace(/^/, "  * ")).join("\n")}

 -- ${maintainer}  ${new Date(at * 1000).toUTCString().replace("GMT", "+0000")}
`;
}

/** Text in lines of 76 letters at most. */
function folded(text) {
  const lines = [""];
  for (const word of text.split(" ")) {
    const last = lines.length - 1;
    if (lines[last] !== "" && lines[last].length + word.length > 75) lines.push(word);
    else lines[last] = `${lines[last]} ${word}`.trim();
  }
  return lines;
}

/** Seconds of the newest commit, so that the same sources give the same package; now, where there is no history. */
async function changedAt() {
  const said = Number(process.env.SOURCE_DATE_EPOCH);
  if (said > 0) return said;
  const { code, output } = await runCommand("git", ["log", "-1", "--format=%ct"], { cwd: root }).catch(() => ({}));
  return code === 0 ? Number(output.trim()) : Math.floor(Date.now() / 1000);
}

/** Same rights and times wherever it is made. */
function settle(folder, at) {
  for (const name of ["", ...readdirSync(folder, { recursive: true })]) {
    const path = join(folder, name);
    const stat = statSync(path, { throwIfNoEntry: false });
    if (!stat) continue;
    if (stat.isDirectory()) chmodSync(path, 0o755);
    else if (!name.startsWith("DEBIAN/")) chmodSync(path, isProgram(path) ? 0o755 : 0o644);
    lutimesSync(path, at, at);
  }
}

function isProgram(path) {
  return /\/lib\/nubrel\/bin\/nubrel$/.test(path) || (extname(path) === ".sh" && path.includes("/collector/"));
}

function bytesOf(folder) {
  return readdirSync(folder, { recursive: true })
    .map((name) => statSync(join(folder, name), { throwIfNoEntry: false }))
    .reduce((sum, stat) => sum + (stat?.isFile() ? stat.size : 4096), 0);
}

async function done(command, args, env = {}, cwd = root) {
  const { code, output } = await runCommand(command, args, { cwd, env: { ...process.env, ...env } });
  if (code !== 0) throw new Told(`${command} failed:\n\n${output.split("\n").slice(-15).join("\n")}`);
}
