import { describe, expect, test } from "vitest";
import { seeded } from "../../testing/random.ts";
import { readingsOf } from "../testing/readings-of.ts";
import { FlowReader } from "./flow-reader.ts";

// An exporter by the specifications: RFC 7011 (IPFIX) and RFC 3954 (version 9), written apart from the reader.
type Field = readonly [element: number, length: number, enterprise?: number];
const u = (value: number, bytes: number) =>
  Array.from({ length: bytes }, (_, i) => Math.floor(value / 256 ** (bytes - 1 - i)) % 256);
const set = (id: number, body: readonly number[]) => [...u(id, 2), ...u(body.length + 4, 2), ...body];
const fieldsText = (fields: readonly Field[]) =>
  fields.flatMap(([element, length, enterprise]) =>
    enterprise === undefined
      ? [...u(element, 2), ...u(length, 2)]
      : [...u(element + 0x8000, 2), ...u(length, 2), ...u(enterprise, 4)],
  );
let sequence = { 9: 0, 10: 0 };
const message = (version: 9 | 10, sets: readonly (readonly number[])[], { records = 0, domain = 7 } = {}) => {
  const body = sets.flat();
  const header =
    version === 9
      ? [...u(9, 2), ...u(sets.length, 2), ...u(1000, 4), ...u(1_795_449_600, 4), ...u(sequence[9], 4), ...u(domain, 4)]
      : [...u(10, 2), ...u(body.length + 16, 2), ...u(1_795_449_600, 4), ...u(sequence[10], 4), ...u(domain, 4)];
  sequence = { 9: sequence[9] + (version === 9 ? 1 : 0), 10: sequence[10] + (version === 10 ? records : 0) };
  return Uint8Array.from([...header, ...body]);
};
const usual: readonly Field[] = [
  [8, 4],
  [12, 4],
  [7, 2],
  [11, 2],
  [4, 1],
  [1, 8],
  [2, 4],
  [10, 4],
  [14, 4],
];
const template = (version: 9 | 10, id: number, fields: readonly Field[]) =>
  set(version === 9 ? 0 : 2, [...u(id, 2), ...u(fields.length, 2), ...fieldsText(fields)]);
const flow = (from: number, to: number, protocol: number, bytes: number, into: number, outOf: number) => [
  ...u(0x0a000001, 4),
  ...u(0x0a000002, 4),
  ...u(from, 2),
  ...u(to, 2),
  ...u(protocol, 1),
  ...u(bytes, 8),
  ...u(5, 4),
  ...u(into, 4),
  ...u(outOf, 4),
];
const told = (reader: FlowReader) => readingsOf((emit) => reader.emit(emit));
const key = (of: string, direction: string, protocol: string, transport = "tcp") =>
  `system.network.protocol.io{direction=${direction},interface=${of},protocol=${protocol},transport=${transport}}`;

describe.each([9, 10] as const)("version %i", (version) => {
  test("bytes by interface, direction and the service that has the port; templates come before the records, and may come again", () => {
    const reader = new FlowReader();
    sequence = { 9: 0, 10: 0 };
    reader.read(
      message(
        version,
        [
          template(version, 300, usual),
          set(300, [
            ...flow(51_000, 443, 6, 1000, 1, 2),
            ...flow(443, 51_000, 6, 90_000, 2, 1),
            ...flow(40_000, 53, 17, 80, 1, 2),
          ]),
        ],
        { records: 3 },
      ),
    );
    reader.read(
      message(
        version,
        [
          template(version, 300, usual),
          set(300, [
            ...flow(51_000, 443, 6, 500, 1, 2),
            ...flow(50_000, 50_001, 6, 7, 1, 2),
            ...flow(0, 0, 1, 64, 1, 2),
            0,
            0,
          ]),
        ],
        { records: 3 },
      ),
    ); // padded
    expect(told(reader)).toEqual({
      [key("interface 1", "receive", "https")]: 1500,
      [key("interface 2", "transmit", "https")]: 1500,
      [key("interface 2", "receive", "https")]: 90_000,
      [key("interface 1", "transmit", "https")]: 90_000,
      [key("interface 1", "receive", "domain", "udp")]: 80,
      [key("interface 2", "transmit", "domain", "udp")]: 80,
      [key("interface 1", "receive", "others")]: 7,
      [key("interface 2", "transmit", "others")]: 7,
      [key("interface 1", "receive", "without ports", "icmp")]: 64,
      [key("interface 2", "transmit", "without ports", "icmp")]: 64,
    });
    expect([...reader.takeLeftOut()]).toEqual([]);
    expect(reader.records).toBe(6);
  });
  test("records without their template wait for it, and are counted; each domain has templates of its own", () => {
    const reader = new FlowReader();
    sequence = { 9: 0, 10: 0 };
    reader.read(message(version, [set(300, flow(1, 443, 6, 10, 1, 2))]));
    reader.read(message(version, [template(version, 300, usual)], { domain: 8 }));
    reader.read(message(version, [set(300, flow(1, 443, 6, 10, 1, 2))]));
    expect(told(reader)).toEqual({});
    expect(reader.takeLeftOut().get("sets whose template has not come yet")).toBe(2);
  });
  test("what is lost on the way is counted by the exporter's own numbers", () => {
    const reader = new FlowReader();
    sequence = { 9: 100, 10: 100 };
    reader.read(message(version, [template(version, 300, usual), set(300, flow(1, 443, 6, 10, 1, 2))], { records: 1 }));
    sequence = { 9: sequence[9] + 3, 10: sequence[10] + 3 };
    reader.read(message(version, [set(300, flow(1, 443, 6, 10, 1, 2))], { records: 1 }));
    expect([...reader.takeLeftOut().values()]).toEqual([3]);
  });
  test("interfaces have names, and samples are multiplied, where options tell so", () => {
    const reader = new FlowReader();
    const options =
      version === 9
        ? [
            set(1, [
              ...u(400, 2),
              ...u(4, 2),
              ...u(8, 2),
              ...fieldsText([
                [2, 4],
                [82, 8],
                [34, 4],
              ]),
            ]),
          ]
        : [
            set(3, [
              ...u(400, 2),
              ...u(3, 2),
              ...u(1, 2),
              ...fieldsText([
                [10, 4],
                [82, 8],
                [34, 4],
              ]),
            ]),
          ];
    reader.read(
      message(version, [
        template(version, 300, usual),
        ...options,
        set(400, [...u(1, 4), ...Array.from("wan\0\0\0\0\0", (letter) => letter.charCodeAt(0)), ...u(10, 4)]),
      ]),
    );
    reader.read(message(version, [set(300, flow(1, 443, 6, 10, 1, 0))]));
    expect(told(reader)).toEqual({ [key("wan", "receive", "https")]: 100 });
  });
  test("an exporter that watches both ways tells each record for its own way", () => {
    const reader = new FlowReader();
    const both: readonly Field[] = [
      [7, 2],
      [11, 2],
      [4, 1],
      [1, 4],
      [10, 2],
      [14, 2],
      [61, 1],
    ];
    const record = (direction: number) => [
      ...u(50_000, 2),
      ...u(22, 2),
      6,
      ...u(100, 4),
      ...u(1, 2),
      ...u(2, 2),
      direction,
    ];
    reader.read(message(version, [template(version, 301, both), set(301, [...record(0), ...record(1)])]));
    expect(told(reader)).toEqual({
      [key("interface 1", "receive", "ssh")]: 100,
      [key("interface 2", "transmit", "ssh")]: 100,
    });
  });
});

test("IPFIX: makers' own elements and elements of any length are passed over; a template may be withdrawn", () => {
  const reader = new FlowReader();
  const own: readonly Field[] = [
    [7, 2],
    [100, 65_535, 9],
    [11, 2],
    [82, 65_535],
    [4, 1],
    [1, 4],
  ];
  const record = [
    ...u(50_000, 2),
    3,
    1,
    2,
    3,
    ...u(80, 2),
    255,
    ...u(300, 2),
    ...Array<number>(300).fill(0x61),
    6,
    ...u(77, 4),
  ];
  reader.read(message(10, [template(10, 310, own), set(310, record)]));
  expect(told(reader)).toEqual({ [key("all", "receive", "http")]: 77 });
  reader.read(message(10, [set(2, [...u(310, 2), ...u(0, 2)]), set(310, record)]));
  expect(told(reader)[key("all", "receive", "http")]).toBe(77);
});

test("version 5 is told by name; damaged and made-up datagrams never throw, and are counted", () => {
  const reader = new FlowReader();
  reader.read(Uint8Array.from([0, 5, 0, 1, ...Array<number>(60).fill(0)]));
  expect([...reader.takeLeftOut().keys()]).toEqual([expect.stringContaining("version 5")]);
  const random = seeded(11);
  const good = message(10, [template(10, 300, usual), set(300, flow(1, 443, 6, 10, 1, 2))]);
  for (let i = 0; i < 3000; i++) {
    const bytes = good.slice(0, Math.floor(random() * (good.length + 1)));
    for (let n = 0; n < 3 && bytes.length > 2; n++)
      bytes[2 + Math.floor(random() * (bytes.length - 2))] = Math.floor(random() * 256);
    reader.read(bytes);
  }
  for (const value of Object.values(told(reader))) expect(Number.isFinite(value)).toBe(true);
});

test("an exporter that makes up ever new templates, domains and interfaces is bounded", () => {
  const reader = new FlowReader();
  for (let domain = 0; domain < 200; domain++)
    reader.read(
      message(
        10,
        [
          template(10, 300, usual),
          set(300, Array.from({ length: 20 }, (_, i) => flow(1, 443, 6, 1, domain * 100 + i + 1, 0)).flat()),
        ],
        { domain },
      ),
    );
  for (let id = 256; id < 3000; id++) reader.read(message(10, [template(10, id, usual)]));
  expect(Object.keys(told(reader)).length).toBeLessThanOrEqual(512 * 20);
});
