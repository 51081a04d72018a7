import type { Emit } from "../../counters/counter.ts";
import { serviceName } from "../network/services.ts";
import { anyLength, flowElements, type FlowTemplate, FlowTemplates } from "./flow-templates.ts";

const version9Header = 20;
const version10Header = 16;
const setHeader = 4;
/** An exporter has few; one that makes up ever new ones is left with these. */
const mostDomains = 64;
const mostInterfaces = 512;
const transports: Readonly<Record<number, string>> = {
  1: "icmp",
  6: "tcp",
  17: "udp",
  47: "gre",
  50: "esp",
  58: "icmp",
  132: "sctp",
};
const noPorts = "without ports";

interface Domain {
  readonly templates: FlowTemplates;
  readonly names: Map<number, string>;
  /** One of so many packets was looked at. */
  sampling: number;
  expected: number | undefined;
}

/**
 * Adds up what one exporter tells of flows, by IPFIX (RFC 7011) or version 9 before it (RFC 3954): bytes by interface,
 * direction and application protocol. A flow is received at
 * the interface by which it came in, and transmitted at the one by which it left; where an exporter watches both ways
 * itself, each of its records counts for its own way.
 */
export class FlowReader {
  readonly #domains = new Map<number, Domain>();
  readonly #bytes = new Map<string, { readonly tags: Readonly<Record<string, string>>; total: number }>();
  #leftOut = new Map<string, number>();
  #records = 0;

  /** How many records were understood since the beginning. */
  get records(): number {
    return this.#records;
  }

  /** Reads one datagram. What cannot be understood is counted, never thrown. */
  read(datagram: Uint8Array): void {
    const view = new DataView(datagram.buffer, datagram.byteOffset, datagram.byteLength);
    const version = view.byteLength >= 2 ? view.getUint16(0) : 0;
    if (version === 9 && view.byteLength >= version9Header)
      this.#sets(view, version9Header, view.byteLength, 9, this.#domain(view.getUint32(16)), view.getUint32(12));
    else if (
      version === 10 &&
      view.byteLength >= version10Header &&
      view.getUint16(2) >= version10Header &&
      view.getUint16(2) <= view.byteLength
    )
      this.#sets(view, version10Header, view.getUint16(2), 10, this.#domain(view.getUint32(12)), view.getUint32(8));
    else
      this.#leave(
        version === 5
          ? "datagrams of version 5, which knows no templates: choose version 9 or IPFIX"
          : "datagrams that are neither IPFIX nor its version 9",
      );
  }

  /** Totals since the beginning. */
  emit(emit: Emit): void {
    for (const { tags, total } of this.#bytes.values()) emit("system.network.protocol.io", tags, total);
  }

  /** What could not be counted since this was asked last, by reason. */
  takeLeftOut(): ReadonlyMap<string, number> {
    const left = this.#leftOut;
    this.#leftOut = new Map();
    return left;
  }

  #sets(view: DataView, from: number, to: number, version: 9 | 10, domain: Domain, sequence: number): void {
    let records = 0;
    for (let at = from; at + setHeader <= to; ) {
      const [id, length] = [view.getUint16(at), view.getUint16(at + 2)];
      if (length < setHeader || at + length > to) {
        this.#leave("sets that are longer than their datagram");
        break;
      }
      const set = new DataView(view.buffer, view.byteOffset + at + setHeader, length - setHeader);
      if (id === (version === 9 ? 0 : 2)) domain.templates.read(set, version, false);
      else if (id === (version === 9 ? 1 : 3)) domain.templates.read(set, version, true);
      else if (id >= 256) {
        const template = domain.templates.get(id);
        if (template) records += this.#recordsOf(set, template, domain);
        else this.#leave("sets whose template has not come yet");
      }
      at += length;
    }
    // Version 9 counts datagrams, IPFIX counts records.
    const lost = domain.expected === undefined ? 0 : (sequence - domain.expected) >>> 0;
    if (lost > 0 && lost < 1_000_000)
      this.#leave(version === 9 ? "datagrams lost on the way" : "records lost on the way", lost);
    domain.expected = (sequence + (version === 9 ? 1 : records)) >>> 0;
  }

  #recordsOf(set: DataView, { fields, isOptions, leastBytes }: FlowTemplate, domain: Domain): number {
    let records = 0;
    for (let at = 0; leastBytes > 0 && at + leastBytes <= set.byteLength; records++) {
      const values = new Map<number, number | string>();
      for (const { element, length: said } of fields) {
        let length = said;
        if (said === anyLength) {
          length = at < set.byteLength ? set.getUint8(at++) : 0;
          if (length === 255 && at + 2 <= set.byteLength) {
            length = set.getUint16(at);
            at += 2;
          }
        }
        if (at + length > set.byteLength) {
          this.#leave("records that are longer than their set");
          return records;
        }
        if (element !== undefined && wanted.has(element))
          values.set(
            element,
            element === flowElements.interfaceName ? textOf(set, at, length) : unsigned(set, at, length),
          );
        at += length;
      }
      if (isOptions) this.#option(values, domain);
      else this.#flow(values, domain);
    }
    return records;
  }

  #option(values: ReadonlyMap<number, number | string>, domain: Domain): void {
    const [index, name] = [values.get(flowElements.ingressInterface), values.get(flowElements.interfaceName)];
    if (
      typeof index === "number" &&
      typeof name === "string" &&
      name !== "" &&
      (domain.names.has(index) || domain.names.size < mostInterfaces)
    )
      domain.names.set(index, name);
    const [interval, packets, space] = [
      values.get(flowElements.samplingInterval),
      values.get(flowElements.samplingPacketInterval),
      values.get(flowElements.samplingPacketSpace),
    ];
    // So many packets are taken, so many passed over (RFC 5477 §8.2); or one of so many.
    if (typeof packets === "number" && packets > 0 && typeof space === "number")
      domain.sampling = (packets + space) / packets;
    else if (typeof interval === "number" && interval > 0) domain.sampling = interval;
  }

  #flow(values: ReadonlyMap<number, number | string>, domain: Domain): void {
    const number = (element: number) => values.get(element) as number | undefined;
    const octets = number(flowElements.octets);
    if (octets === undefined) {
      this.#leave("records that tell no bytes");
      return;
    }
    this.#records++;
    const transport = transports[number(flowElements.protocol) ?? -1] ?? "other";
    const protocol = protocolOf(number(flowElements.sourcePort), number(flowElements.destinationPort));
    const bytes = octets * domain.sampling;
    const [into, outOf, direction] = [
      number(flowElements.ingressInterface),
      number(flowElements.egressInterface),
      number(flowElements.direction),
    ];
    if (direction !== 1 || !outOf) this.#add(domain, into, "receive", protocol, transport, bytes);
    if (outOf && direction !== 0) this.#add(domain, outOf, "transmit", protocol, transport, bytes);
  }

  #add(
    domain: Domain,
    index: number | undefined,
    direction: "receive" | "transmit",
    protocol: string,
    transport: string,
    bytes: number,
  ): void {
    const name = !index ? "all" : (domain.names.get(index) ?? `interface ${index}`);
    const key = `${name} ${direction} ${protocol} ${transport}`;
    const known = this.#bytes.get(key);
    if (known) known.total += bytes;
    else if (this.#bytes.size < mostInterfaces * 20)
      this.#bytes.set(key, { tags: { interface: name, direction, protocol, transport }, total: bytes });
    else this.#leave("interfaces beyond those that are counted");
  }

  #domain(id: number): Domain {
    let domain = this.#domains.get(id);
    if (!domain) {
      if (this.#domains.size >= mostDomains) this.#domains.delete(this.#domains.keys().next().value as number);
      this.#domains.set(
        id,
        (domain = { templates: new FlowTemplates(), names: new Map(), sampling: 1, expected: undefined }),
      );
    }
    return domain;
  }

  #leave(reason: string, count = 1): void {
    this.#leftOut.set(reason, (this.#leftOut.get(reason) ?? 0) + count);
  }
}

const wanted: ReadonlySet<number> = new Set(Object.values(flowElements));

/** By the port that has a registered name: the side that serves. Of two the lower, of none others. */
function protocolOf(source: number | undefined, destination: number | undefined): string {
  if (source === undefined && destination === undefined) return noPorts;
  const ports = [source ?? 0, destination ?? 0].sort((a, b) => a - b);
  return ports.map(serviceName).find((name) => name !== undefined) ?? (ports[1] === 0 ? noPorts : "others");
}

/** Numbers may be sent in fewer bytes than they have (RFC 7011 §6.2). */
function unsigned(view: DataView, at: number, length: number): number {
  let value = 0;
  for (let i = 0; i < Math.min(length, 8); i++) value = value * 256 + view.getUint8(at + i);
  return value;
}

function textOf(view: DataView, at: number, length: number): string {
  let text = "";
  for (let i = 0; i < Math.min(length, 100); i++) {
    const byte = view.getUint8(at + i);
    if (byte === 0) break;
    text += byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : "?";
  }
  return text;
}
