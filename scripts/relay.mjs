// `nubrel relay`: keeps where its server is, and runs what gathers here. Nothing else of Nubrel runs here, and no
// database.
import { existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { Told, WronglyAsked } from "./told.mjs";

const sizeOf = { M: 2 ** 20, G: 2 ** 30 };
const usualRoom = "1G";
const leastRoom = 2 ** 20;

/**
 * What the pasted line says, or what was kept of one before; from then on the folder has it. Throws Told.
 * @param {string} folder where the relay keeps what it has
 * @param {string | undefined} address
 * @param {{ token?: string, pin?: string, room?: string }} said
 */
export function relaySettings(folder, address, { token, pin, room }) {
  const file = join(folder, "link.json");
  const kept = existsSync(file) ? JSON.parse(readFileSync(file, "utf8")) : {};
  if (address === undefined && token === undefined && kept.to === undefined)
    throw new WronglyAsked(
      "A relay wants its server's address and its token: paste the line that the server shows under Sources, Connect, another site.",
    );
  const to = address === undefined ? kept.to : addressOf(address);
  const settings = { to, token: token ?? kept.token, pin: address === undefined ? (pin ?? kept.pin) : pin };
  if (!settings.token) throw new WronglyAsked("A relay wants its token: --token nbr_…, as the server shows it.");
  if (settings.pin !== undefined && !/^sha256\/\/[A-Za-z0-9+/]{43}=$/.test(settings.pin))
    throw new WronglyAsked(`--pin "${settings.pin}" is no pin: it is sha256// and 44 signs, as the server shows it.`);
  const mostBytes = bytesOf(room ?? kept.room ?? usualRoom);
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    writeFileSync(file, `${JSON.stringify({ ...settings, room: room ?? kept.room })}\n`, { mode: 0o600 });
  } catch (error) {
    throw new Told(
      `This account may not write to ${folder} (${error.code}). Give it the folder (chown), or choose another: NUBREL_DATA=/path/to/folder nubrel relay …`,
    );
  }
  return { ...settings, folder, mostBytes };
}

function addressOf(text) {
  if (!URL.canParse(text) || !/^https?:$/.test(new URL(text).protocol))
    throw new WronglyAsked(`"${text}" is no address of a server. It looks like https://nubrel.example:8970`);
  const url = new URL(text);
  return `${url.origin}${url.pathname}`.replace(/\/+$/, "");
}

function bytesOf(text) {
  const found = /^(\d{1,6})([MG])$/.exec(text);
  const bytes = found ? Number(found[1]) * sizeOf[found[2]] : Number.NaN;
  if (!(bytes >= leastRoom)) throw new WronglyAsked(`--room "${text}" is no size: 500M or 2G say, 1M at least.`);
  return bytes;
}
