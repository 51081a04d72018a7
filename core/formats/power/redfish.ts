import type { Emit } from "../../counters/counter.ts";
import { emitTroubles } from "../storage/troubles.ts";
import { sensorCounter } from "./sensor-counter.ts";

/** A resource of DSP0266, as far as it is looked at. */
export type Resource = Readonly<Record<string, unknown>>;

/**
 * Properties whose links are followed, by what a resource is about. The newer schemas stand before the older ones,
 * which then are not asked.
 */
const followed = [
  "Chassis",
  "Systems",
  "Members",
  "Sensors",
  "ThermalSubsystem",
  "PowerSubsystem",
  "EnvironmentMetrics",
  "ThermalMetrics",
  "Fans",
  "PowerSupplies",
  "Metrics",
  "Storage",
  "Drives",
] as const;

/** The resources that a resource leads to and that tell of power, heat or health. */
export function linksOf(resource: Resource): readonly string[] {
  const links = followed.flatMap((name) => referencesIn(resource[name]));
  if (resource["ThermalSubsystem"] === undefined) links.push(...referencesIn(resource["Thermal"]));
  if (resource["PowerSubsystem"] === undefined) links.push(...referencesIn(resource["Power"]));
  return [...new Set(links)];
}

function referencesIn(value: unknown): string[] {
  if (Array.isArray(value)) return value.flatMap(referencesIn);
  const link = (value as { "@odata.id"?: unknown } | null | undefined)?.["@odata.id"];
  return typeof link === "string" && link.startsWith("/") && !link.includes("#") ? [link] : [];
}

/**
 * What resources say, by their paths: Sensor, ThermalMetrics, Fan, PowerSupply and EnvironmentMetrics of the newer
 * schemas, Thermal and Power of the older ones,
 * and the health of systems, chassis and their parts. A reading that names a Sensor which was read itself is not taken
 * twice.
 */
export function readRedfish(resources: ReadonlyMap<string, Resource>, emit: Emit): void {
  const taken = new Set<string>();
  const give: Emit = (counter, tags, value) => {
    const key = `${counter} ${Object.values(tags).join(" ")}`;
    if (!Number.isFinite(value) || taken.has(key)) return;
    taken.add(key);
    emit(counter, tags, value);
  };
  for (const [path, resource] of resources) {
    readSensor(resource, give);
    readHealth(path, resource, give);
  }
  for (const resource of resources.values()) {
    for (const one of list(resource["Temperatures"]))
      if (isPresent(one)) give("hw.temperature", { sensor: nameOf(one) }, number(one["ReadingCelsius"]));
    for (const one of list(resource["Fans"]))
      if (isPresent(one))
        readFan(one, number(one["Reading"] ?? one["ReadingRPM"]), String(one["ReadingUnits"] ?? "RPM"), give);
    for (const one of list(resource["Voltages"]))
      if (isPresent(one)) give("hw.voltage", { sensor: nameOf(one) }, number(one["ReadingVolts"]));
    for (const one of list(resource["PowerControl"])) readPowerControl(one, give);
    for (const one of list(resource["PowerSupplies"])) {
      if (!isPresent(one)) continue;
      give("hw.power", { sensor: `${nameOf(one)} input` }, number(one["PowerInputWatts"]));
      give(
        "hw.power",
        { sensor: `${nameOf(one)} output` },
        number(one["PowerOutputWatts"] ?? one["LastPowerOutputWatts"]),
      );
      give("hw.voltage", { sensor: `${nameOf(one)} input` }, number(one["LineInputVoltage"]));
      give("hw.healthy", { part: nameOf(one) }, healthOf(one));
    }
    readNewer(resource, resources, give);
  }
}

function readSensor(resource: Resource, give: Emit): void {
  if (typeof resource["ReadingType"] !== "string" || !isPresent(resource)) return;
  const reading = number(resource["Reading"]);
  const sensor = { sensor: nameOf(resource) };
  const type = resource["ReadingType"];
  if (type === "Humidity") give("hw.humidity", sensor, reading / 100);
  else if (type === "EnergykWh") give("hw.energy", sensor, reading * 3.6e6);
  else if (type === "EnergyJoules") give("hw.energy", sensor, reading);
  else if (type === "Percent") {
    if (/fan/i.test(nameOf(resource))) give("hw.fan.speed_ratio", sensor, reading / 100);
  } else {
    const found = sensorCounter(String(resource["ReadingUnits"] ?? ""));
    if (found) give(found.counter, sensor, reading * found.factor);
  }
}

function readNewer(resource: Resource, resources: ReadonlyMap<string, Resource>, give: Emit): void {
  const unlessRead = (excerpt: Resource | undefined, use: (value: number) => void) => {
    if (excerpt && !resources.has(String(excerpt["DataSourceUri"] ?? ""))) use(number(excerpt["Reading"]));
  };
  for (const one of list(resource["TemperatureReadingsCelsius"]))
    unlessRead(one, (value) => give("hw.temperature", { sensor: String(one["DeviceName"] ?? nameOf(one)) }, value));
  const fan = object(resource["SpeedPercent"]);
  if (fan) {
    unlessRead(fan, (value) => give("hw.fan.speed_ratio", { sensor: nameOf(resource) }, value / 100));
    give("hw.fan.speed", { sensor: nameOf(resource) }, number(fan["SpeedRPM"]));
  }
  const where = nameOf(resource);
  unlessRead(object(resource["PowerWatts"]), (value) => give("hw.power", { sensor: where }, value));
  unlessRead(object(resource["EnergykWh"]), (value) => give("hw.energy", { sensor: where }, value * 3.6e6));
  unlessRead(object(resource["InputPowerWatts"]), (value) => give("hw.power", { sensor: `${where} input` }, value));
  unlessRead(object(resource["InputVoltage"]), (value) => give("hw.voltage", { sensor: `${where} input` }, value));
  unlessRead(object(resource["OutputPowerWatts"]), (value) => give("hw.power", { sensor: `${where} output` }, value));
}

function readPowerControl(one: Resource, give: Emit): void {
  const sensor = nameOf(one);
  give("hw.power", { sensor }, number(one["PowerConsumedWatts"]));
  give("hw.power.limit", { sensor }, number(one["PowerCapacityWatts"]));
  const metrics = object(one["PowerMetrics"]);
  if (!metrics) return;
  const minutes = number(metrics["IntervalInMin"]);
  give(
    "hw.power.own_mean",
    { sensor, ...(Number.isFinite(minutes) && { over: `${minutes} min` }) },
    number(metrics["AverageConsumedWatts"]),
  );
}

function readFan(one: Resource, value: number, unit: string, give: Emit): void {
  if (/percent/i.test(unit)) give("hw.fan.speed_ratio", { sensor: nameOf(one) }, value / 100);
  else give("hw.fan.speed", { sensor: nameOf(one) }, value);
  give("hw.healthy", { part: nameOf(one) }, healthOf(one));
}

/** Health of whole systems and chassis, fans and supplies that are resources of their own. */
function readHealth(path: string, resource: Resource, give: Emit): void {
  if (/\/Drives\/[^/]+\/?$/.test(path)) readDrive(resource, give);
  const part = /\/(Systems|Chassis|PowerSupplies|Fans)\/[^/]+\/?$/.exec(path);
  if (!part) return;
  give("hw.healthy", { part: nameOf(resource) }, healthOf(resource));
  if (part[1] === "Systems" && typeof resource["PowerState"] === "string")
    give("hw.powered", { part: nameOf(resource) }, resource["PowerState"] === "On" ? 1 : 0);
}

/** A drive behind a controller (schema Drive): it may say itself that it will fail, and the controller how it is. */
function readDrive(drive: Resource, give: Emit): void {
  const health = healthOf(drive);
  const predicted = drive["FailurePredicted"];
  if (!isPresent(drive) || (!Number.isFinite(health) && typeof predicted !== "boolean")) return;
  emitTroubles(
    "drive",
    { device: nameOf(drive) },
    { "its own verdict": predicted === true, "its controller's verdict": health === 0 },
    give,
  );
  give("drive.wear", { device: nameOf(drive) }, (100 - number(drive["PredictedMediaLifeLeftPercent"])) / 100);
}

/** DSP0268: Health is OK, Warning or Critical. */
function healthOf(resource: Resource): number {
  const health = object(resource["Status"])?.["HealthRollup"] ?? object(resource["Status"])?.["Health"];
  return typeof health === "string" ? (health === "OK" ? 1 : 0) : Number.NaN;
}

const isPresent = (resource: Resource) =>
  !["Absent", "Disabled", "UnavailableOffline"].includes(String(object(resource["Status"])?.["State"] ?? ""));
const nameOf = (resource: Resource) =>
  String(
    resource["Name"] ??
      resource["FanName"] ??
      resource["DeviceName"] ??
      resource["MemberId"] ??
      resource["Id"] ??
      "sensor",
  ).trim();
const number = (value: unknown) => (typeof value === "number" ? value : Number.NaN);
const object = (value: unknown) =>
  typeof value === "object" && value !== null && !Array.isArray(value) ? (value as Resource) : undefined;
const list = (value: unknown) => (Array.isArray(value) ? value.map(object).filter((one) => one !== undefined) : []);
