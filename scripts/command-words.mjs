// What `bin/nubrel` can do, in one table: its help, its manual page and the shells' completions are made of it.

/**
 * @typedef {object} Command
 * @property {string} name
 * @property {string} takes what stands after its name
 * @property {string} does one line
 * @property {string} [more] sentences that its own help adds
 * @property {readonly string[]} options names of its options
 * @property {"file"} [completes] what the shell offers after its name
 */

/** @type {Readonly<Record<string, { takes: string, does: string }>>} */
export const optionWords = {
  format: { takes: "openmetrics|csv|jsonl", does: "how samples are written; openmetrics where it is not said" },
  from: { takes: "TIME", does: "the first moment, as 2026-11-23T02:10 or 2026-11-23T02:10:00Z" },
  to: { takes: "TIME", does: "the moment before which it ends" },
  for: { takes: "LENGTH", does: "how long: 90s, 4m, 2h or 1d" },
  anyway: { takes: "", does: "also where it costs more than its budget" },
  counter: { takes: "NAME", does: "of counters of this name alone, which may have *" },
  machine: { takes: "NAME", does: "of this machine; in an export the name may have *" },
  kind: { takes: "WORDS", does: "what sort of event it is; note where it is not said" },
  scope: { takes: "read|manage", does: "what the token may; read where it is not said" },
  name: { takes: "NAME", does: "what the token is called" },
  token: { takes: "TOKEN", does: "the relay's token, as its server shows it once" },
  pin: { takes: "PIN", does: "the key that the server must show, as sha256//…" },
  room: { takes: "SIZE", does: "how much may wait to be sent, as 500M or 2G; 1G where it is not said" },
  yes: { takes: "", does: "without asking" },
  demo: { takes: "", does: "of the sample world's data" },
};

/** @type {readonly Command[]} */
export const commands = [
  {
    name: "start",
    takes: "",
    does: "starts Nubrel: PostgreSQL and the server, until Ctrl+C",
    more: "Where it is installed as a service, systemctl start nubrel does this.",
    options: [],
  },
  { name: "demo", takes: "", does: "starts it with the sample world, whose data stands apart", options: [] },
  {
    name: "export",
    takes: "[FILE]",
    does: "writes samples to a file, or to the standard output",
    options: ["format", "from", "to", "counter", "machine", "demo"],
    completes: "file",
  },
  {
    name: "import",
    takes: "[FILE]",
    does: "takes samples of a file, or of the standard input",
    more: "A sample that is there already is not doubled.",
    options: ["format", "demo"],
    completes: "file",
  },
  {
    name: "event",
    takes: "TEXT",
    does: "tells what happened; now, where no time is said",
    more: 'For example: nubrel event "backup ran" --kind backup --machine vault.',
    options: ["machine", "kind", "from", "to", "demo"],
  },
  {
    name: "record",
    takes: "NAME",
    does: "begins a run of a recording, by its name or number",
    more: "Without --for it runs as long as the recording says.",
    options: ["for", "anyway", "demo"],
  },
  {
    name: "backup",
    takes: "FILE",
    does: "writes everything to one file, also while Nubrel runs",
    more: "It holds password hashes and the keys of sealed secrets: keep it as you keep the data itself.",
    options: ["demo"],
    completes: "file",
  },
  {
    name: "restore",
    takes: "FILE",
    does: "makes an empty Nubrel what the backup was",
    more: "Whole, or not at all.",
    options: ["demo"],
    completes: "file",
  },
  {
    name: "token",
    takes: "",
    does: "makes a token and prints it, once",
    options: ["scope", "name", "demo"],
  },
  {
    name: "new-keys",
    takes: "",
    does: "seals every secret with a new key and gives the database new passwords",
    more: "Only while Nubrel stands still.",
    options: ["demo"],
  },
  {
    name: "person",
    takes: "reset NAME",
    does: "gives a person a new password, prints it, once, and ends their sign-ins",
    options: ["demo"],
  },
  {
    name: "relay",
    takes: "[ADDRESS]",
    does: "gathers at this site for a server at another, which it reaches at the address",
    more: "Without an address it goes on with the one that it was given before. It has no database; what the server has not taken yet waits on disk.",
    options: ["token", "pin", "room"],
  },
  {
    name: "doctor",
    takes: "",
    does: "looks at everything around the data and at every block of it, and says what to do",
    more: "Versions, disk, rights, port, clock, settings of PostgreSQL, certificates, backups; it ends with 1 where something is to be done.",
    options: ["demo"],
  },
  {
    name: "profile",
    takes: "[SECONDS]",
    does: "samples what the server that runs does with its processor, and writes a file for developer tools",
    more: "30 seconds where nothing is said, 300 at the most; the file, a .cpuprofile, is written where one stands.",
    options: ["demo"],
  },
  {
    name: "health",
    takes: "",
    does: "asks the server that runs whether it works; for what watches a container",
    more: "It ends with 1 where it does not run or not as it should.",
    options: ["demo"],
  },
  { name: "remove", takes: "", does: "takes all of it away, after asking", options: ["yes", "demo"] },
  { name: "help", takes: "[COMMAND]", does: "says what it can do, or what one command takes", options: [] },
];

/** What a command's ending with a number means. */
const exitCodes = [
  [0, "done"],
  [1, "it failed; what was wrong, and what to do, stands on the standard error"],
  [2, "it was asked for something that there is not: no such command, option or argument"],
];

const use = ({ name, takes, options }) =>
  ["nubrel", name, takes, options.length > 0 ? "[OPTIONS]" : ""].filter(Boolean).join(" ");

/** The help of all commands. */
export function helpWords(dataFolder) {
  const rows = commands.map(({ name, takes, does }) => [`nubrel ${name} ${takes}`.trim(), does]);
  const width = Math.max(...rows.map(([left]) => left.length)) + 2;
  return `${rows.map(([left, does]) => left.padEnd(width) + does).join("\n")}

nubrel COMMAND --help says what a command takes.
The data is in NUBREL_DATA (${dataFolder}), or in NUBREL_DATABASE_URL; --demo means the sample world's.
It ends with ${exitCodes.map(([code, means]) => `${code}: ${means}`).join("; ")}.`;
}

/** The help of one command. Undefined where there is none of this name. */
export function helpOf(name) {
  const command = commands.find((one) => one.name === name);
  if (!command) return undefined;
  const options = command.options.map((option) => {
    const { takes, does } = optionWords[option];
    return `  ${`--${option} ${takes}`.trim().padEnd(32)}${does}`;
  });
  return [
    use(command),
    `${command.does[0].toUpperCase()}${command.does.slice(1)}.${command.more ? ` ${command.more}` : ""}`,
    ...(options.length > 0 ? [options.join("\n")] : []),
  ].join("\n\n");
}

/** Text as a manual page writes it (man(7)): a line never begins with a control character. */
const roff = (text) =>
  text
    .replaceAll("\\", "\\e")
    .replaceAll("-", "\\-")
    .replace(/^([.'])/gm, "\\&$1");

/** The manual page nubrel(1). */
export function manualPage(version, date) {
  const said = commands.map((command) => {
    const { name, takes, does, more, options } = command;
    return `.TP
.B nubrel ${roff(name)}${takes ? ` \\fI${roff(takes)}\\fR` : ""}
${roff(`${does[0].toUpperCase()}${does.slice(1)}.${more ? ` ${more}` : ""}`)}${
  options.length > 0 ? `\nOptions: ${options.map((option) => `\\fB\\-\\-${option}\\fR`).join(", ")}.` : ""
}`;
  });
  return `.TH NUBREL 1 "${date}" "Nubrel ${version}" "User Commands"
.SH NAME
nubrel \\- counters of a few self\\-hosted machines, gathered, charted and watched
.SH SYNOPSIS
.B nubrel
.I COMMAND
.RI [ ARGUMENTS ]
.RI [ OPTIONS ]
.SH DESCRIPTION
Nubrel gathers counters of hosts, hypervisors, storage and containers into a time\\-series store of its own on PostgreSQL, charts them and tells when a limit is passed.
This command starts it, and does over its data what is better done in a shell.
.SH COMMANDS
${said.join("\n")}
.SH OPTIONS
${Object.entries(optionWords)
  .map(
    ([name, { takes, does }]) => `.TP
.B \\-\\-${name}${takes ? ` \\fI${roff(takes)}\\fR` : ""}
${roff(`${does[0].toUpperCase()}${does.slice(1)}.`)}`,
  )
  .join("\n")}
.SH EXIT STATUS
${exitCodes.map(([code, means]) => `.TP\n.B ${code}\n${roff(`${means[0].toUpperCase()}${means.slice(1)}.`)}`).join("\n")}
.SH ENVIRONMENT
.TP
.B NUBREL_DATA
The folder of the data; /var/lib/nubrel for root and for the service.
.TP
.B NUBREL_DATABASE_URL
A PostgreSQL that runs already, in the place of a cluster of Nubrel\\(aqs own.
.PP
The settings of the server stand in docs/operate.md.
.SH FILES
.TP
.I /etc/nubrel/nubrel.env
Settings of the service, a variable each line.
.TP
.I /var/lib/nubrel
Its data.
.SH SEE ALSO
.BR systemctl (1),
.BR journalctl (1)
`;
}

/** Completion for bash: the commands, then a command's own options. */
export const bashCompletion = () => `# Completion of nubrel(1) for bash.
_nubrel() {
  local word="\${COMP_WORDS[COMP_CWORD]}" before="\${COMP_WORDS[COMP_CWORD - 1]}" options
  case "$before" in
${choicesOf("    ", (name, values) => `--${name}) COMPREPLY=($(compgen -W "${values}" -- "$word")); return ;;`)}
  esac
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "${commands.map(({ name }) => name).join(" ")}" -- "$word"))
    return
  fi
  case "\${COMP_WORDS[1]}" in
${commands
  .filter(({ options }) => options.length > 0)
  .map(({ name, options }) => `    ${name}) options="${options.map((option) => `--${option}`).join(" ")} --help" ;;`)
  .join("\n")}
    *) options="--help" ;;
  esac
  case "$word" in
    -*) COMPREPLY=($(compgen -W "$options" -- "$word")); return ;;
  esac
  case "\${COMP_WORDS[1]}" in
    ${commands
      .filter(({ completes }) => completes === "file")
      .map(({ name }) => name)
      .join("|")}) COMPREPLY=($(compgen -f -- "$word")) ;;
    person) COMPREPLY=($(compgen -W "reset" -- "$word")) ;;
    help) COMPREPLY=($(compgen -W "${commands.map(({ name }) => name).join(" ")}" -- "$word")) ;;
  esac
}
complete -o filenames -F _nubrel nubrel
`;

/** Completion for zsh, with what each does. */
export const zshCompletion = () => `#compdef nubrel
# Completion of nubrel(1) for zsh.
_nubrel() {
  local -a commands
  commands=(
${commands.map(({ name, does }) => `    '${name}:${quoted(does)}'`).join("\n")}
  )
  if (( CURRENT == 2 )); then
    _describe command commands
    return
  fi
  # A command's own arguments are completed as if it stood alone.
  shift words
  (( CURRENT-- ))
  case $words[1] in
${commands
  .map(({ name, options, completes }) => {
    const said = options.map((option) => {
      const { takes, does } = optionWords[option];
      const values = takes.includes("|") ? `(${takes.replaceAll("|", " ")})` : "";
      return `'--${option}[${quoted(does)}]${takes ? `:${takes.includes("|") ? "one of" : takes}:${values}` : ""}'`;
    });
    if (name === "help") return `    ${name}) _describe command commands ;;`;
    const rest = completes === "file" ? ["'*:file:_files'"] : name === "person" ? ["'1:what:(reset)'"] : [];
    return `    ${name}) _arguments ${[...said, "'--help[what it takes]'", ...rest].join(" ")} ;;`;
  })
  .join("\n")}
  esac
}
_nubrel "$@"
`;

const quoted = (text) =>
  text.replaceAll("'", "'\\''").replaceAll(":", "\\:").replaceAll("[", "\\[").replaceAll("]", "\\]");

const choicesOf = (indent, line) =>
  Object.entries(optionWords)
    .filter(([, { takes }]) => takes.includes("|"))
    .map(([name, { takes }]) => `${indent}${line(name, takes.replaceAll("|", " "))}`)
    .join("\n");
