import { describe, expect, test } from "vitest";
import { tableText, westernBytes } from "../csv/table-text.ts";
import { TableReader } from "../csv/table-reader.ts";
import { findTableShape } from "../csv/table-shape.ts";
import { counterList, readCounterList, defaultChoice } from "./counter-choice.ts";
import { counterLogSeries } from "./counter-log.ts";
import { counterPath, pathText } from "./counter-path.ts";

/**
 * The same log in four languages: made up, by the form that typeperf writes (figures.md); names from memory of such
 * machines.
 */
const languages = {
  English: [
    "Processor(_Total)\\% Processor Time",
    "Memory\\Available Bytes",
    "PhysicalDisk(0 C:)\\Disk Read Bytes/sec",
    "LogicalDisk(C:)\\% Free Space",
    "Network Interface(Card)\\Bytes Sent/sec",
    "System\\System Up Time",
  ],
  German: [
    "Prozessor(_Total)\\Prozessorzeit (%)",
    "Speicher\\Verfügbare Bytes",
    "Physikalischer Datenträger(0 C:)\\Bytes gelesen/s",
    "Logischer Datenträger(C:)\\Freier Speicherplatz (%)",
    "Netzwerkschnittstelle(Card)\\Bytes gesendet/s",
    "System\\Systembetriebszeit",
  ],
  French: [
    "Processeur(_Total)\\% temps processeur",
    "Mémoire\\Octets disponibles",
    "Disque physique(0 C:)\\Lectures disque, octets/s",
    "Disque logique(C:)\\% d’espace libre",
    "Interface réseau(Card)\\Octets envoyés/s",
    "Système\\Temps d’activité système",
  ],
  Spanish: [
    "Procesador(_Total)\\% de tiempo de procesador",
    "Memoria\\Bytes disponibles",
    "Disco físico(0 C:)\\Bytes de lectura de disco/s",
    "Disco lógico(C:)\\% de espacio libre",
    "Interfaz de red(Card)\\Bytes enviados/s",
    "Sistema\\Tiempo de actividad del sistema",
  ],
} as const;
const log = (paths: readonly string[]) =>
  `"(PDH-CSV 4.0) (W. Europe Standard Time)(-60)",${paths.map((path) => `"\\\\DESK\\${path}"`).join(",")}\r\n"11/23/2026 17:00:00.250",${paths.map((_, i) => `"${i + 1}.5"`).join(",")}\r\n`;
const encodings: Readonly<Record<string, (text: string) => Uint8Array>> = {
  "utf-8": (text) => Buffer.from(text),
  "windows-1252": (text) => westernBytes(text) as Uint8Array,
  "utf-16le": (text) => Buffer.from(`\ufeff${text}`, "utf16le"),
  "utf-16be": (text) => Buffer.from(`\ufeff${text}`, "utf16le").swap16(),
};

describe.each(Object.entries(languages))("a counter log in %s", (_language, paths) => {
  test.each(Object.entries(encodings))("is read as %s: the same counters with the same units", (name, encode) => {
    const bytes = encode(log(paths));
    const { text, encoding } = tableText(bytes);
    if (/[^\0-\x7f]/.test(text.replace("\ufeff", ""))) expect(encoding).toBe(name);
    const found = findTableShape(text);
    const reader = new TableReader();
    const page = reader.read(text, found?.shape as NonNullable<typeof found>["shape"]);
    expect(Object.fromEntries(page.leftOut)).toEqual({});
    expect(reader.series.map(({ counter, unit, tags }) => [counter, unit, tags["instance"]])).toEqual([
      ["windows.processor.percent_processor_time", "%", "_Total"],
      ["windows.memory.available_bytes", "By", undefined],
      ["windows.physicaldisk.disk_read_bytes_per_sec", "By/s", "0 C:"],
      ["windows.logicaldisk.percent_free_space", "%", "C:"],
      ["windows.network_interface.bytes_sent_per_sec", "By/s", "Card"],
      ["windows.system.system_up_time", "s", undefined],
    ]);
  });
});

test.each([
  ["\\\\DESK\\Ordinateur\\Paquets perdus/s", "windows.ordinateur.paquets_perdus_per_s", "/s"],
  ["\\\\DESK\\Drucker\\Gelesene Bytes/s gesamt", "windows.drucker.gelesene_bytes_per_s_gesamt", "1"],
  ["\\\\DESK\\Cola(a)\\% de uso", "windows.cola.percent_usage", "%"],
  ["\\\\DESK\\Кэш\\Обращений/с", "windows.кэш.обращении_per_с", "1"],
  ["\\\\DESK\\Druck\\Auftragszeit (%)", "windows.druck.auftragszeit_percent", "%"],
  ["\\\\DESK\\PhysicalDisk(_Total)\\Avg. Disk sec/Read", "windows.physicaldisk.avg_disk_sec_per_read", "s"],
])("%s, which the table does not know, keeps its name: %s in %s", (path, counter, unit) => {
  expect(counterLogSeries(path)).toMatchObject({ counter, unit });
});

describe("texts", () => {
  test("what is said is taken where it is known, and never for what is UTF-8 or UTF-16", () => {
    expect(tableText(Uint8Array.of(0xcf, 0xf0), "windows-1251")).toEqual({ text: "Пр", encoding: "windows-1251" });
    expect(tableText(Uint8Array.of(0x80, 0xe9), "no-such-thing")).toEqual({ text: "€é", encoding: "windows-1252" });
    expect(tableText(Buffer.from("é"), "windows-1251").text).toBe("é");
    expect(tableText(Buffer.from("time,heat\r\n", "utf16le"))).toMatchObject({
      text: "time,heat\r\n",
      encoding: "utf-16le",
    });
  });
  test("the western code page goes there and back; what it lacks is said", () => {
    expect(tableText(westernBytes("“Größe” – 5 €") as Uint8Array).text).toBe("“Größe” – 5 €");
    expect(westernBytes("Кэш")).toBeUndefined();
  });
});

describe("choosing counters", () => {
  const told = readCounterList(
    "\\Prozessor(0)\\Prozessorzeit (%)\r\n\\Prozessor(_Total)\\Prozessorzeit (%)\r\n\\Prozessor(0)\\Benutzerzeit (%)\r\n\\Speicher\\Seiten/s\r\n\\Cache(a(b))\\x\r\n\r\nThe command completed successfully.\r\n",
  );
  test("a machine's list becomes categories with counters and instances; lines that are no paths are passed over", () => {
    expect(told).toEqual([
      { category: "Cache", counters: ["x"], instances: ["a(b)"] },
      { category: "Prozessor", counters: ["Benutzerzeit (%)", "Prozessorzeit (%)"], instances: ["_Total", "0"] },
      { category: "Speicher", counters: ["Seiten/s"], instances: [] },
    ]);
  });
  test("until somebody chooses, the usual is gathered by the names of the machine's language", () => {
    expect(counterList(defaultChoice(told), told)).toBe(
      "\\Prozessor(*)\\Prozessorzeit (%)\r\n\\Speicher\\Seiten/s\r\n",
    );
  });
  test("one instance, several, all, of this machine and others", () => {
    const picks = [
      { category: "Prozessor", counter: "Benutzerzeit (%)", instances: ["0", "_Total"] },
      { category: "Cache", counter: "x", instances: "all" as const },
      { category: "Speicher", counter: "Seiten/s", instances: "all" as const },
    ];
    expect(counterList({ picks, machines: ["ATTIC"] }, told).split("\r\n")).toEqual([
      "\\Prozessor(0)\\Benutzerzeit (%)",
      "\\Prozessor(_Total)\\Benutzerzeit (%)",
      "\\Cache(*)\\x",
      "\\Speicher\\Seiten/s",
      "\\\\ATTIC\\Prozessor(0)\\Benutzerzeit (%)",
      "\\\\ATTIC\\Prozessor(_Total)\\Benutzerzeit (%)",
      "\\\\ATTIC\\Cache(*)\\x",
      "\\\\ATTIC\\Speicher\\Seiten/s",
      "",
    ]);
  });
  test.each(["\\\\DESK\\A(b)\\c", "\\A\\c d/e", "\\A(x (y))\\%"])("%s is written as it was read", (text) => {
    expect(pathText(counterPath(text) as NonNullable<ReturnType<typeof counterPath>>)).toBe(text);
  });
});
