/**
 * One field of a template: which information element, and how many bytes; 65,535 where each record says it (RFC 7011
 * §7).
 */
export interface FlowField {
  /** The element's number of IANA's registry; undefined for one of a maker's own. */
  readonly element: number | undefined;
  readonly length: number;
}

/** What records of a set look like. Records of an options template tell about the exporter itself. */
export interface FlowTemplate {
  readonly fields: readonly FlowField[];
  readonly isOptions: boolean;
  /** The least that a record takes, bytes. */
  readonly leastBytes: number;
}

export const anyLength = 65_535;
const mostTemplates = 512;
const mostFields = 200;

/**
 * Templates of one exporter's domain: they come before the records, and again and again. Bounded: an exporter that
 * makes ever new ones loses the oldest.
 */
export class FlowTemplates {
  readonly #byId = new Map<number, FlowTemplate>();

  get(id: number): FlowTemplate | undefined {
    return this.#byId.get(id);
  }

  /**
   * Reads the templates of a set of version 10 (RFC 7011 §3.4.1, §3.4.2) or 9 (RFC 3954 §5.2, §6.1). `view` is the set
   * without its header.
   */
  read(view: DataView, version: 9 | 10, isOptions: boolean): void {
    let at = 0;
    while (at + 4 <= view.byteLength) {
      const id = view.getUint16(at);
      if (id < 256) return; // padding
      const shape = version === 9 && isOptions ? this.#options9(view, at) : this.#plain(view, at, version, isOptions);
      if (!shape) return;
      at = shape.end;
      if (shape.fields.length === 0)
        this.#byId.delete(id); // withdrawn
      else
        this.#put(id, {
          fields: shape.fields,
          isOptions,
          leastBytes: shape.fields.reduce((sum, { length }) => sum + (length === anyLength ? 1 : length), 0),
        });
    }
  }

  #plain(
    view: DataView,
    at: number,
    version: 9 | 10,
    isOptions: boolean,
  ): { readonly fields: readonly FlowField[]; readonly end: number } | undefined {
    const count = view.getUint16(at + 2);
    const begin = at + (isOptions && count > 0 ? 6 : 4);
    return count > mostFields ? undefined : fieldsOf(view, begin, count, version);
  }

  /** Version 9 gives the lengths of scope and options in bytes; scopes have numbers of their own. */
  #options9(view: DataView, at: number): { readonly fields: readonly FlowField[]; readonly end: number } | undefined {
    if (at + 6 > view.byteLength) return undefined;
    const [scopes, options] = [view.getUint16(at + 2) / 4, view.getUint16(at + 4) / 4];
    if (!Number.isInteger(scopes) || !Number.isInteger(options) || scopes + options > mostFields) return undefined;
    const found = fieldsOf(view, at + 6, scopes + options, 9);
    const interfaceScope = 2; // RFC 3954 §6.1: 1 system, 2 interface
    return (
      found && {
        end: found.end,
        fields: found.fields.map((field, i) =>
          i >= scopes
            ? field
            : { ...field, element: field.element === interfaceScope ? flowElements.ingressInterface : undefined },
        ),
      }
    );
  }

  #put(id: number, template: FlowTemplate): void {
    this.#byId.delete(id);
    this.#byId.set(id, template);
    if (this.#byId.size > mostTemplates) this.#byId.delete(this.#byId.keys().next().value as number);
  }
}

/** Numbers of IANA's registry of IPFIX information elements. */
export const flowElements = {
  octets: 1,
  packets: 2,
  protocol: 4,
  sourcePort: 7,
  ingressInterface: 10,
  destinationPort: 11,
  egressInterface: 14,
  samplingInterval: 34,
  direction: 61,
  interfaceName: 82,
  samplingPacketInterval: 305,
  samplingPacketSpace: 306,
} as const;

function fieldsOf(
  view: DataView,
  begin: number,
  count: number,
  version: 9 | 10,
): { readonly fields: readonly FlowField[]; readonly end: number } | undefined {
  const fields: FlowField[] = [];
  let at = begin;
  for (let i = 0; i < count; i++) {
    if (at + 4 > view.byteLength) return undefined;
    const [element, length] = [view.getUint16(at), view.getUint16(at + 2)];
    const isOwn = version === 10 && (element & 0x8000) !== 0;
    if (isOwn && at + 8 > view.byteLength) return undefined;
    fields.push({ element: isOwn ? undefined : element, length });
    at += isOwn ? 8 : 4;
  }
  return { fields, end: at };
}
