import { TextError } from "../../pages/text-error.ts";
import { readFileSync } from "node:fs";
import { readChunkBlock, readTimesBlock } from "../../chunk/chunk-block.ts";
import { BlockError } from "../../chunk/cursor.ts";
import { readFirstChunkBlock, readFirstJournalBlock } from "../../chunk/first-blocks.ts";
import { JournalSegmentReader } from "../../chunk/journal-block.ts";
import { readRollupBlock } from "../../chunk/rollup-block.ts";
import type { Emit } from "../../counters/counter.ts";
import { globOf } from "../../counters/glob.ts";
import { readControlGroup1, readControlGroup2 } from "../../formats/containers/control-group.ts";
import { parseContainerList, parseEngineEvent, readEngineStats } from "../../formats/containers/engine.ts";
import { findTableShape, type TableShape } from "../../formats/csv/table-shape.ts";
import { TableReader } from "../../formats/csv/table-reader.ts";
import { PageReader } from "../../formats/exposition/page-reader.ts";
import { readProcDiskstats } from "../../formats/linux/proc-diskstats.ts";
import { readProcMeminfo } from "../../formats/linux/proc-meminfo.ts";
import { parseProcMounts } from "../../formats/linux/proc-mounts.ts";
import { readProcNetDev } from "../../formats/linux/proc-net-dev.ts";
import { readProcNetTcp } from "../../formats/linux/proc-net-tcp.ts";
import { readPressure, readProcLoadavg, readProcUptime, readTemperature } from "../../formats/linux/proc-small.ts";
import { readProcStat } from "../../formats/linux/proc-stat.ts";
import { readProcVmstat } from "../../formats/linux/proc-vmstat.ts";
import { parseProcessStat } from "../../formats/linux/process-stat.ts";
import { readJsonRequest } from "../../formats/otlp/otlp-json.ts";
import { OtlpError } from "../../formats/otlp/otlp-messages.ts";
import { readProtobufRequest } from "../../formats/otlp/otlp-protobuf.ts";
import { OtlpReader } from "../../formats/otlp/otlp-reader.ts";
import { readDcmiPower, readIpmiSensors } from "../../formats/power/ipmi-sensors.ts";
import { linksOf, readRedfish } from "../../formats/power/redfish.ts";
import { readUpsc } from "../../formats/power/upsc.ts";
import { CsvReader } from "../../formats/samples/csv-samples.ts";
import { JsonLinesReader } from "../../formats/samples/json-lines-samples.ts";
import { OpenMetricsReader } from "../../formats/samples/open-metrics-samples.ts";
import type { SampleReader } from "../../formats/samples/sample-format.ts";
import { textOf } from "../../formats/snmp/var-bind.ts";
import { FlowReader } from "../../formats/flow/flow-reader.ts";
import { SocketBytes } from "../../formats/linux/socket-bytes.ts";
import { readCounterList } from "../../formats/windows/counter-choice.ts";
import { readMdstat } from "../../formats/storage/mdstat.ts";
import { readBtrfs } from "../../formats/storage/btrfs.ts";
import { readZfsList, readZpools } from "../../formats/storage/pools.ts";
import { drivesOfScan, readSmartctl } from "../../formats/storage/smartctl.ts";
import { readDomstats } from "../../formats/virtual-machines/domstats.ts";
import { FigureError, parseFigure } from "../../reading/figure.ts";
import { readUnit } from "../../units/ucum.ts";

/**
 * One reader of something that others wrote: what it is fed, a text that it takes, and the errors by which it may
 * refuse.
 */
export interface Reader {
  readonly name: string;
  /** Throws what `declared` says, and nothing else. */
  readonly read: (bytes: Uint8Array) => void;
  readonly declared: readonly (new (...args: never[]) => Error)[];
  /** What it understands, to be changed a little. */
  readonly seeds: readonly Uint8Array[];
}

const utf8 = new TextEncoder();
const text = new TextDecoder();
const fixture = (name: string) =>
  readFileSync(new URL(`../../formats/testing/fixtures/${name}`, import.meta.url), "utf8");
const engine = (name: string) =>
  readFileSync(new URL(`../../../server/testing/fixtures/${name}`, import.meta.url), "utf8");

/** What leaves a reader: a value may be no number (those are counted and left out), but it is of the type of one. */
const emit: Emit = (counter, tags, value) => {
  if (typeof counter !== "string" || typeof value !== "number") throw new Error(`${counter} is given as ${value}`);
  for (const [tag, of] of Object.entries(tags))
    if (typeof of !== "string") throw new Error(`the tag ${tag} of ${counter} is ${typeof of}`);
};

const ofText = (
  name: string,
  read: (text: string) => void,
  seeds: readonly string[],
  declared: Reader["declared"] = [],
): Reader => ({
  name,
  read: (bytes) => read(text.decode(bytes)),
  declared,
  seeds: seeds.map((seed) => utf8.encode(seed)),
});
const ofBytes = (
  name: string,
  read: (bytes: Uint8Array) => void,
  seeds: readonly Uint8Array[],
  declared: Reader["declared"],
): Reader => ({ name, read, declared, seeds });

/** What is JSON already where a reader gets it: other text does not come to it. */
const ofJson = (
  name: string,
  read: (json: unknown) => void,
  seeds: readonly string[],
  declared: Reader["declared"] = [],
): Reader =>
  ofText(
    name,
    (given) => {
      let json: unknown;
      try {
        json = JSON.parse(given);
      } catch {
        return;
      }
      read(json);
    },
    seeds,
    declared,
  );

function lines(make: () => SampleReader): (text: string) => void {
  return (given) => {
    const reader = make();
    for (const line of given.split("\n")) reader.line(line);
    reader.end();
  };
}

const take = (_series: unknown, timeMs: number, value: number) => {
  if (typeof timeMs !== "number" || typeof value !== "number" || Number.isNaN(timeMs))
    throw new Error(`a sample of ${timeMs} is given`);
};

const page =
  'mem{host="a",kind="used"} 12.5 1795449600000\n# TYPE up gauge\nup 1\nreq_total{code="200"} 7\nlat_bucket{le="0.1"} 3\nlat_bucket{le="+Inf"} 4\n';
const openMetrics =
  '# TYPE req counter\n# HELP req counter web.requests, unit 1, kind total\nreq_total{code="200"} 7 1795449600 # {trace="x"} 1\n# TYPE lat histogram\nlat_bucket{le="0.1"} 3\nlat_bucket{le="+Inf"} 4\nlat_count 4\nlat_sum 1\n# EOF\n';
const otlp = JSON.stringify({
  resourceMetrics: [
    {
      resource: { attributes: [{ key: "service.name", value: { stringValue: "web" } }] },
      scopeMetrics: [
        {
          metrics: [
            {
              name: "a",
              unit: "By",
              gauge: {
                dataPoints: [
                  {
                    timeUnixNano: "1795449600000000000",
                    asInt: "5",
                    attributes: [{ key: "k", value: { arrayValue: { values: [{ intValue: "1" }] } } }],
                  },
                ],
              },
            },
            {
              name: "b",
              histogram: {
                aggregationTemporality: 2,
                dataPoints: [
                  {
                    timeUnixNano: "1795449600000000000",
                    count: "3",
                    sum: 2,
                    bucketCounts: ["1", "2"],
                    explicitBounds: [1],
                  },
                ],
              },
            },
            {
              name: "e",
              exponentialHistogram: {
                aggregationTemporality: 2,
                dataPoints: [
                  {
                    timeUnixNano: "1795449600000000000",
                    count: "3",
                    scale: 3,
                    zeroCount: "1",
                    positive: { offset: 1, bucketCounts: ["1", "1"] },
                  },
                ],
              },
            },
            {
              name: "s",
              summary: {
                dataPoints: [{ timeUnixNano: "1", count: "3", quantileValues: [{ quantile: 0.5, value: 1 }] }],
              },
            },
          ],
        },
      ],
    },
  ],
});
const wide = "time;cpu [%];room\n2026-11-23 10:00:00;1,5;a\n2026-11-23 10:01:00;2,5;b\n";
const long = 'time,counter,value,unit,kind,tags,site\n2026-11-23T10:00:00Z,lamp,1,W,level,"{""a"":""b""}",x\n';
const log =
  '"(PDH-CSV 4.0) (CET)(-60)","\\\\DESK\\Processor(_Total)\\% Processor Time"\n"11/23/2026 10:00:00.000","1.5"\n';

function readTable(given: string): void {
  const reader = new TableReader();
  const found = findTableShape(given)?.shape;
  const shapes: readonly TableShape[] = found
    ? [found]
    : [
        { layout: "wide", delimiter: ",", decimal: ".", timeColumn: "time", timeForm: "iso", offsetMinutes: 0 },
        { layout: "counter log", delimiter: ",", decimal: ".", timeColumn: "", timeForm: "m/d/y", offsetMinutes: 0 },
      ];
  let refusal: unknown;
  for (const shape of shapes) {
    try {
      reader.read(given, shape);
    } catch (error) {
      if (!(error instanceof TextError)) throw error;
      refusal = error;
    }
  }
  if (refusal) throw refusal;
}

const readPage = (dialect: "text" | "openmetrics") => (bytes: Uint8Array) => {
  const reader = new PageReader(dialect);
  reader.read(bytes);
  // What it knows by now must be read the same way.
  reader.read(bytes);
};

function readOtlp(request: ReturnType<typeof readJsonRequest>): void {
  const { page: read } = new OtlpReader().read(request);
  for (let i = 0; i < read.length; i++)
    if (Number.isNaN(read.value[i])) throw new Error("a value that is no number is given");
}

/** Every reader of the product. */
export const everyReader: readonly Reader[] = [
  ofBytes("page, text", readPage("text"), [utf8.encode(page)], [TextError]),
  ofBytes("page, OpenMetrics", readPage("openmetrics"), [utf8.encode(openMetrics)], [TextError]),
  ofText(
    "import, OpenMetrics",
    lines(() => new OpenMetricsReader(take)),
    ['# TYPE lamp gauge\nlamp{machine="mast"} 1 1795449600.5\n# EOF'],
    [TextError],
  ),
  ofText(
    "import, CSV",
    lines(() => new CsvReader(take)),
    ['time,counter,unit,kind,tags,value\n2026-11-23T16:00:00.000Z,lamp,1,level,"{""machine"":""mast""}",1\n'],
    [TextError],
  ),
  ofText(
    "import, JSON lines",
    lines(() => new JsonLinesReader(take)),
    ['{"counter":"lamp","tags":{"machine":"mast"},"unit":"1","kind":"level","times":[1795449600000],"values":[1]}\n'],
    [TextError],
  ),
  ofText("table", readTable, [wide, long, log], [TextError]),
  ofText("OTLP, JSON", (given) => readOtlp(readJsonRequest(given)), [otlp], [OtlpError]),
  ofBytes(
    "OTLP, protobuf",
    (bytes) => readOtlp(readProtobufRequest(bytes)),
    [Uint8Array.from(Buffer.from("0a2e0a0012 2a12280a0161 1a02427942".replaceAll(" ", ""), "hex"))],
    [OtlpError],
  ),
  ofText("domstats", (given) => void readDomstats(given, emit), [fixture("qemu-domstats.txt")]),
  ofJson("engine, list", (json) => void parseContainerList(json), [engine("containers.json")], [TypeError]),
  ofJson("engine, statistics", (json) => readEngineStats(json, { container: "a" }, emit), [
    engine("stats-with-network.json"),
  ]),
  ofJson(
    "engine, events",
    (json) => {
      const event = parseEngineEvent(json);
      if (event && (!Number.isFinite(event.atMs) || typeof event.name !== "string" || typeof event.image !== "string"))
        throw new Error("an event of no time is given");
    },
    engine("events-live.jsonl").trim().split("\n"),
  ),
  ofText("control group 2", (given) => readControlGroup2(() => given, {}, emit), [
    fixture("cgroup2-cpu.stat"),
    fixture("cgroup2-memory.stat"),
    fixture("cgroup2-io.stat"),
  ]),
  ofText("control group 1", (given) => readControlGroup1(() => given, {}, emit), [
    "user 250\nsystem 50\n",
    "total_cache 1000\n8:0 Read 512\n",
  ]),
  ofText("/proc/stat", (given) => readProcStat(given, emit), [fixture("proc-stat")]),
  ofText("/proc/diskstats", (given) => readProcDiskstats(given, emit, () => true), [fixture("proc-diskstats")]),
  ofText("/proc/meminfo", (given) => readProcMeminfo(given, emit), [fixture("proc-meminfo")]),
  ofText("/proc/mounts", (given) => void parseProcMounts(given), [
    "/dev/sda1 / ext4 rw,relatime 0 0\ntmpfs /run\\040x tmpfs rw 0 0\n",
  ]),
  ofText("/proc/net/dev", (given) => readProcNetDev(given, emit), [fixture("proc-net_dev")]),
  ofText("/proc/net/tcp", (given) => readProcNetTcp([given], emit), [
    "  sl  local_address rem_address   st\n   0: 0100007F:1CCD 00000000:0000 0A 00000000:00000000 00:00000000 00000000     0        0 1 1\n",
  ]),
  ofText(
    "ss",
    (given) => {
      const sockets = new SocketBytes();
      sockets.read("", emit);
      sockets.read(given, emit);
    },
    ["0 0 10.0.0.1:22 10.0.0.9:50000 cubic bytes_sent:5 bytes_acked:5 bytes_received:9\n"],
  ),
  {
    name: "flows",
    read: (given) => void new FlowReader().read(given),
    declared: [],
    seeds: [
      Uint8Array.from([
        0, 10, 0, 56, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 7, 0, 2, 0, 24, 1, 44, 0, 4, 0, 7, 0, 2, 0, 11, 0, 2, 0, 4, 0, 1,
        0, 1, 0, 4, 1, 44, 0, 16, 195, 80, 1, 187, 6, 0, 0, 3, 232, 0, 0, 0,
      ]),
    ],
  },
  ofText("typeperf", (given) => void readCounterList(given), ["\\Processor(_Total)\\% Processor Time\r\n"]),
  ofText("/proc/loadavg", (given) => readProcLoadavg(given, emit), [fixture("proc-loadavg")]),
  ofText("/proc/uptime", (given) => readProcUptime(given, emit), ["350735.47 234388.90\n"]),
  ofText("/proc/pressure", (given) => readPressure("cpu", given, emit), [
    "some avg10=0.12 avg60=0.05 avg300=0.01 total=1234\nfull avg10=0.00 avg60=0.00 avg300=0.00 total=0\n",
  ]),
  ofText("a temperature", (given) => readTemperature("cpu", given, emit), ["45000\n"]),
  ofText("/proc/vmstat", (given) => readProcVmstat(given, emit), ["pgpgin 1\npgfault 22\npgmajfault 3\npswpin 0\n"]),
  ofText("/proc/PID/stat", (given) => void parseProcessStat(given), [
    "42 (a (b) c) S 1 42 42 0 -1 4194560 1000 0 5 0 10 20 0 0 20 0 1 0 100 1000000 200 18446744073709551615\n",
  ]),
  ofText("mdstat", (given) => readMdstat(given, emit), [fixture("mdstat-sync"), fixture("mdstat-degraded")]),
  ofText("zpool, list", (given) => readZpools(given, undefined, emit), [
    "archive\t8000000000\t6000000000\t2000000000\tONLINE\t31\n",
  ]),
  ofText("zfs", (given) => readZfsList(given, emit), ["archive/shows\t7\t90\n"]),
  ofText("zpool, status", (given) => readZpools("archive\t1\t1\t0\tONLINE\t0\n", given, emit), [
    "  pool: archive\n state: ONLINE\nconfig:\n\tNAME STATE READ WRITE CKSUM\n\tarchive ONLINE 0 0 0\n\t  sda ONLINE 0 0 3\n\nerrors: No known data errors\n",
  ]),
  ofText("btrfs, usage", (given) => readBtrfs({ usage: given, options: [] }, "/srv", emit), [
    fixture("btrfs-usage.txt"),
  ]),
  ofText("btrfs, errors", (given) => readBtrfs({ stats: given, options: [] }, "/srv", emit), [
    fixture("btrfs-device-stats.json"),
  ]),
  ofText("smartctl", (given) => readSmartctl(given, "sda", emit), [
    fixture("smartctl-ata.json"),
    fixture("smartctl-nvme.json"),
  ]),
  ofText("smartctl, scan", (given) => void drivesOfScan(given), ['{"devices":[{"name":"/dev/sda","type":"sat"}]}']),
  ofText("upsc", (given) => void readUpsc(given, emit), [fixture("upsc-rack.txt")]),
  ofText(
    "ipmitool",
    (given) => {
      readIpmiSensors(given, emit);
      readDcmiPower(given, emit);
    },
    [
      fixture("sdr-csv.txt"),
      "Instantaneous power reading: 149 Watts\nAverage power reading over sample period: 150 Watts\nSampling period: 00000005 Seconds.\n",
    ],
  ),
  ofJson(
    "Redfish",
    (json) => {
      if (typeof json !== "object" || json === null || Array.isArray(json)) return;
      linksOf(json as never);
      readRedfish(new Map([["/redfish/v1/Chassis/1", json as never]]), emit);
    },
    [
      JSON.stringify({
        Name: "Chassis",
        Status: { Health: "OK" },
        Temperatures: [{ Name: "Inlet", ReadingCelsius: 23.5 }],
        Fans: [{ FanName: "F", Reading: 35, ReadingUnits: "Percent" }],
        PowerControl: [{ PowerConsumedWatts: 149, PowerMetrics: { IntervalInMin: 60, AverageConsumedWatts: 151 } }],
        SpeedPercent: { Reading: 3 },
        Members: [{ "@odata.id": "/a" }],
      }),
    ],
  ),
  ofBytes(
    "SNMP, a text",
    (bytes) => void textOf({ oid: "1.3", type: 4, value: bytes }),
    [utf8.encode("eth0"), Uint8Array.of(0, 12, 200, 7)],
    [],
  ),
  ofText(
    "arithmetic",
    (given) => void parseFigure(given, ["a", "b"]),
    ["a / (b + 2) * 100", "max(abs(a), -b)"],
    [FigureError],
  ),
  ofText("a unit", (given) => void readUnit(given), ["kW.h/m2", "By/s", "{request}/s"]),
  ofText("a pattern with stars", (given) => void globOf(given.slice(0, 2000)).match(given), ["quay/*:*", "a*b*c"]),
  ofBytes("chunk", (bytes) => void readChunkBlock(bytes), [Uint8Array.of(2, 1, 0, 0)], [BlockError]),
  ofBytes("times", (bytes) => void readTimesBlock(bytes), [Uint8Array.of(2, 1, 0)], [BlockError]),
  ofBytes(
    "journal",
    (bytes) => void new JournalSegmentReader().read(bytes),
    [Uint8Array.of(2, 1, 0, 1, 2, 2, 8)],
    [BlockError],
  ),
  ofBytes("rollup", (bytes) => void readRollupBlock(bytes), [Uint8Array.of(2, 0, 0)], [BlockError]),
  ofBytes(
    "chunk, first version",
    (bytes) => void readFirstChunkBlock(bytes),
    [Uint8Array.of(1, 1, 0, 0)],
    [BlockError],
  ),
  ofBytes(
    "journal, first version",
    (bytes) => void readFirstJournalBlock(bytes),
    [Uint8Array.of(1, 1, 0, 0)],
    [BlockError],
  ),
];
