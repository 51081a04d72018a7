import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { readingsOf } from "../testing/readings-of.ts";
import { readDcmiPower, readIpmiSensors } from "./ipmi-sensors.ts";
import { linksOf, readRedfish, type Resource } from "./redfish.ts";
import { readUpsc } from "./upsc.ts";

const fixture = (name: string) => readFileSync(new URL(`../testing/fixtures/${name}`, import.meta.url), "utf8");

describe("IPMI (ipmitool's output against a simulator)", () => {
  test("sensors by unit, with the part's own verdict", () => {
    expect(readingsOf((emit) => readIpmiSensors(fixture("sdr-csv.txt"), emit))).toEqual({
      "hw.temperature{sensor=CPU Temp}": 97,
      "hw.healthy{part=CPU Temp}": 0,
      "hw.temperature{sensor=Inlet Temp}": 23,
      "hw.healthy{part=Inlet Temp}": 1,
      "hw.fan.speed{sensor=Fan 1}": 4500,
      "hw.healthy{part=Fan 1}": 1,
      "hw.voltage{sensor=12V}": 12.06,
      "hw.healthy{part=12V}": 1,
      "hw.power{sensor=System Power}": 180,
      "hw.healthy{part=System Power}": 1,
    });
  });
  test("a sensor without a reading is left out; discrete ones give nothing", () => {
    expect(
      readingsOf((emit) =>
        readIpmiSensors("Fan 2,,,ns\nFan 3,no reading,RPM,ns\nPSU,0x01,discrete,ok\nFan 4,40,percent,ok\n", emit),
      ),
    ).toEqual({ "hw.fan.speed_ratio{sensor=Fan 4}": 0.4, "hw.healthy{part=Fan 4}": 1 });
  });
  test("DCMI power reading, with the controller's own mean (its form from memory)", () => {
    const text =
      "\n    Instantaneous power reading:                   212 Watts\n    Minimum during sampling period:                 10 Watts\n    Maximum during sampling period:                298 Watts\n    Average power reading over sample period:      207 Watts\n    IPMI timestamp:   Mon Nov 23 2026\n    Sampling period:                          00003600 Seconds.\n    Power reading state is:                   activated\n";
    expect(readingsOf((emit) => readDcmiPower(text, emit))).toEqual({
      "hw.power{sensor=whole machine}": 212,
      "hw.power.own_mean{over=3600 s,sensor=whole machine}": 207,
    });
    expect(readDcmiPower("DCMI request failed because: Invalid command (c1)", () => {})).toBe(false);
  });
});

describe("upsc", () => {
  test("shares become shares, words become states; the supply's own watts stand", () => {
    expect(readingsOf((emit) => readUpsc(fixture("upsc-rack.txt"), emit))).toEqual({
      "hw.battery.charge{}": 0.98,
      "hw.battery.time_left{}": 2820,
      "hw.voltage{sensor=battery}": 54.7,
      "hw.temperature{sensor=case}": 25.3,
      "ups.load{sensor=output}": 0.46,
      "hw.power{sensor=output}": 1370,
      "hw.voltage{sensor=input}": 231.4,
      "hw.frequency{sensor=input}": 49.9,
      "hw.voltage{sensor=output}": 230,
      "ups.on_battery{}": 0,
      "hw.battery.healthy{}": 1,
    });
  });
  test("on battery and low; watts worked out from load and nominal power", () => {
    expect(
      readingsOf((emit) =>
        readUpsc("ups.status: OB LB\nups.load: 25\nups.realpower.nominal: 400\nbattery.charge: n/a\n", emit),
      ),
    ).toEqual({
      "ups.on_battery{}": 1,
      "hw.battery.healthy{}": 0,
      "ups.load{sensor=output}": 0.25,
      "hw.power{sensor=output}": 100,
    });
    expect(readUpsc("Init SSL without certificate database\n", () => {})).toBe(0);
  });
});

describe("Redfish (DSP0266 and the schemas Power, Thermal, PowerSubsystem, ThermalSubsystem, Sensor; documents made after them)", () => {
  const map = (resources: Record<string, Resource>) => new Map(Object.entries(resources));
  test("the older schemas", () => {
    const chassis = "/redfish/v1/Chassis/1";
    expect(
      readingsOf((emit) =>
        readRedfish(
          map({
            [chassis]: {
              Name: "Computer chassis",
              Status: { State: "Enabled", Health: "OK" },
              Thermal: { "@odata.id": `${chassis}/Thermal` },
              Power: { "@odata.id": `${chassis}/Power` },
            },
            [`${chassis}/Thermal`]: {
              Temperatures: [
                { Name: "Inlet", ReadingCelsius: 23.5, Status: { State: "Enabled" } },
                { Name: "CPU 2", ReadingCelsius: 0, Status: { State: "Absent" } },
                { Name: "Broken", ReadingCelsius: null },
              ],
              Fans: [
                { FanName: "Fan 1", Reading: 4200, ReadingUnits: "RPM", Status: { Health: "Warning" } },
                { Name: "Fan 2", Reading: 35, ReadingUnits: "Percent" },
              ],
            },
            [`${chassis}/Power`]: {
              PowerControl: [
                {
                  Name: "System input",
                  PowerConsumedWatts: 149,
                  PowerCapacityWatts: 750,
                  PowerMetrics: {
                    IntervalInMin: 60,
                    AverageConsumedWatts: 151,
                    MinConsumedWatts: 120,
                    MaxConsumedWatts: 230,
                  },
                },
              ],
              Voltages: [{ Name: "12V", ReadingVolts: 12.1 }],
              PowerSupplies: [
                { Name: "PSU 1", PowerInputWatts: 160, LastPowerOutputWatts: 149, Status: { Health: "OK" } },
              ],
            },
          }),
          emit,
        ),
      ),
    ).toEqual({
      "hw.healthy{part=Computer chassis}": 1,
      "hw.temperature{sensor=Inlet}": 23.5,
      "hw.fan.speed{sensor=Fan 1}": 4200,
      "hw.healthy{part=Fan 1}": 0,
      "hw.fan.speed_ratio{sensor=Fan 2}": 0.35,
      "hw.power{sensor=System input}": 149,
      "hw.power.limit{sensor=System input}": 750,
      "hw.power.own_mean{over=60 min,sensor=System input}": 151,
      "hw.voltage{sensor=12V}": 12.1,
      "hw.power{sensor=PSU 1 input}": 160,
      "hw.power{sensor=PSU 1 output}": 149,
      "hw.healthy{part=PSU 1}": 1,
    });
  });
  test("drives behind a controller, and what comes in at a supply", () => {
    const storage = "/redfish/v1/Systems/1/Storage/1";
    const drive = (id: string, more: Resource) => [`${storage}/Drives/${id}`, { Name: `Bay ${id}`, ...more }] as const;
    const readings = readingsOf((emit) =>
      readRedfish(
        map(
          Object.fromEntries([
            drive("1", {
              Status: { State: "Enabled", Health: "OK" },
              FailurePredicted: false,
              PredictedMediaLifeLeftPercent: 96,
            }),
            drive("2", { Status: { State: "Enabled", Health: "OK" }, FailurePredicted: true }),
            drive("3", { Status: { State: "Enabled", Health: "Critical" } }),
            drive("4", { Status: { State: "Absent" } }),
            [
              "/redfish/v1/Chassis/1/Power",
              {
                PowerSupplies: [
                  { Name: "PSU 1", LineInputVoltage: 229, PowerInputWatts: 160, Status: { Health: "OK" } },
                ],
              },
            ],
          ]),
        ),
        emit,
      ),
    );
    expect(readings).toMatchObject({
      "drive.healthy{device=Bay 1}": 1,
      "drive.healthy{device=Bay 2}": 0,
      "drive.trouble{device=Bay 2,why=its own verdict}": 1,
      "drive.healthy{device=Bay 3}": 0,
      "drive.trouble{device=Bay 3,why=its controller's verdict}": 1,
      "hw.voltage{sensor=PSU 1 input}": 229,
    });
    expect(readings["drive.wear{device=Bay 1}"]).toBeCloseTo(0.04, 9);
    expect(Object.keys(readings).filter((key) => key.includes("Bay 4"))).toEqual([]);
    expect(
      linksOf({
        Storage: { "@odata.id": "/redfish/v1/Systems/1/Storage" },
        Drives: [{ "@odata.id": `${storage}/Drives/1` }],
      }),
    ).toEqual(["/redfish/v1/Systems/1/Storage", `${storage}/Drives/1`]);
  });
  test("the newer schemas: what names a sensor that was read itself is not taken twice", () => {
    const chassis = "/redfish/v1/Chassis/A";
    expect(
      readingsOf((emit) =>
        readRedfish(
          map({
            [`${chassis}/Sensors/inlet`]: {
              Id: "inlet",
              Name: "Inlet",
              ReadingType: "Temperature",
              ReadingUnits: "Cel",
              Reading: 22,
            },
            [`${chassis}/Sensors/fan1`]: {
              Name: "Fan 1",
              ReadingType: "Rotational",
              ReadingUnits: "RPM",
              Reading: 5100,
            },
            [`${chassis}/Sensors/rh`]: { Name: "Humidity", ReadingType: "Humidity", ReadingUnits: "%", Reading: 41 },
            [`${chassis}/Sensors/off`]: {
              Name: "Off",
              ReadingType: "Temperature",
              ReadingUnits: "Cel",
              Reading: 0,
              Status: { State: "Disabled" },
            },
            [`${chassis}/EnvironmentMetrics`]: {
              Name: "Environment",
              PowerWatts: { Reading: 180 },
              EnergykWh: { Reading: 2.5 },
            },
            [`${chassis}/ThermalSubsystem/ThermalMetrics`]: {
              TemperatureReadingsCelsius: [
                { DeviceName: "Inlet", Reading: 22, DataSourceUri: `${chassis}/Sensors/inlet` },
                { DeviceName: "Drive bay", Reading: 31 },
              ],
            },
            "/redfish/v1/Systems/1": {
              Name: "hive",
              PowerState: "On",
              Status: { HealthRollup: "Critical", Health: "OK" },
            },
          }),
          emit,
        ),
      ),
    ).toEqual({
      "hw.temperature{sensor=Inlet}": 22,
      "hw.fan.speed{sensor=Fan 1}": 5100,
      "hw.humidity{sensor=Humidity}": 0.41,
      "hw.power{sensor=Environment}": 180,
      "hw.energy{sensor=Environment}": 9e6,
      "hw.temperature{sensor=Drive bay}": 31,
      "hw.healthy{part=hive}": 0,
      "hw.powered{part=hive}": 1,
    });
  });
  test("links: the older resources are followed only where the newer are missing; never out of the service", () => {
    const link = (path: string) => ({ "@odata.id": path });
    expect(
      linksOf({
        Chassis: link("/redfish/v1/Chassis"),
        Systems: link("/redfish/v1/Systems"),
        Managers: link("/redfish/v1/Managers"),
      }),
    ).toEqual(["/redfish/v1/Chassis", "/redfish/v1/Systems"]);
    expect(linksOf({ Thermal: link("/T"), Power: link("/P"), ThermalSubsystem: link("/TS") })).toEqual(["/TS", "/P"]);
    expect(linksOf({ Members: [link("/a"), link("http://elsewhere/b"), link("/a"), 7, null] })).toEqual(["/a"]);
  });
});
