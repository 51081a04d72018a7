import { emitNumber, type SnmpModule } from "./snmp-module.ts";

const ups = "1.3.6.1.2.1.33.1";
const battery = (n: number) => `${ups}.2.${n}`;
const input = (n: number) => `${ups}.3.3.1.${n}`;
const output = (n: number) => `${ups}.4.4.1.${n}`;
const lineBads = `${ups}.3.1`;
const outputSource = `${ups}.4.1`;
const alarms = `${ups}.6.1`;
const onBattery = 5; // upsOutputSource: battery(5)
const batteryNormal = 2; // upsBatteryStatus: batteryNormal(2)

/**
 * Power supplies with a battery (RFC 1628). Tenths of volts, amperes and hertz become whole units; minutes become
 * seconds.
 */
export const upsModule: SnmpModule = {
  name: "UPS",
  words: "power supply with a battery",
  source: "RFC 1628",
  columns: [
    ...[1, 2, 3, 4, 5, 6, 7].map((n) => [battery(n)]),
    [lineBads],
    [input(2), input(3), input(4), input(5)],
    [outputSource],
    [output(2), output(3), output(4), output(5)],
    [alarms],
  ],
  read(table, emit) {
    const status = table.number(battery(1));
    if (Number.isFinite(status)) emit("hw.battery.healthy", {}, status === batteryNormal ? 1 : 0);
    const source = table.number(outputSource);
    if (Number.isFinite(source)) emit("ups.on_battery", {}, source === onBattery ? 1 : 0);
    emitNumber(emit, "hw.battery.time_left", {}, table.number(battery(3)) * 60);
    emitNumber(emit, "hw.battery.charge", {}, table.number(battery(4)) / 100);
    emitNumber(emit, "hw.voltage", { sensor: "battery" }, table.number(battery(5)) / 10);
    emitNumber(emit, "hw.current", { sensor: "battery" }, table.number(battery(6)) / 10);
    emitNumber(emit, "hw.temperature", { sensor: "battery" }, table.number(battery(7)));
    emitNumber(emit, "ups.input.failures", {}, table.number(lineBads));
    emitNumber(emit, "ups.alarm.count", {}, table.number(alarms));
    const lines = (column: (n: number) => string, side: string) =>
      table
        .rows(column(3))
        .concat(table.rows(column(2)).filter((index) => !table.rows(column(3)).includes(index)))
        .map((index) => ({ index, sensor: table.rows(column(3)).length > 1 ? `${side} ${index}` : side }));
    for (const { index, sensor } of lines(input, "input")) {
      emitNumber(emit, "hw.frequency", { sensor }, table.number(input(2), index) / 10);
      emitNumber(emit, "hw.voltage", { sensor }, table.number(input(3), index));
      emitNumber(emit, "hw.current", { sensor }, table.number(input(4), index) / 10);
      emitNumber(emit, "hw.power", { sensor }, table.number(input(5), index));
    }
    for (const { index, sensor } of lines(output, "output")) {
      emitNumber(emit, "hw.voltage", { sensor }, table.number(output(2), index));
      emitNumber(emit, "hw.current", { sensor }, table.number(output(3), index) / 10);
      emitNumber(emit, "hw.power", { sensor }, table.number(output(4), index));
      emitNumber(emit, "ups.load", { sensor }, table.number(output(5), index) / 100);
    }
  },
};
