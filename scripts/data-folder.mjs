import {
  chmodSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statfsSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { homedir } from "node:os";
import { dirname, join, resolve } from "node:path";
import { Told } from "./told.mjs";

/** Version of the folder's layout; a newer program may raise it. */
const format = 1;
const roomNeededBytes = 200e6;

/**
 * Where the installation's data stands: NUBREL_DATA, /var/lib/nubrel for root, else the user's data folder (XDG Base
 * Directory).
 */
export function dataFolder(env, { demo = false } = {}) {
  const byDefault =
    process.getuid() === 0 ? "/var/lib/nubrel" : join(env.XDG_DATA_HOME || join(homedir(), ".local/share"), "nubrel");
  return resolve(env.NUBREL_DATA || byDefault) + (demo ? "-demo" : "");
}

/**
 * What belongs to the server within the data folder, and to its account where it has one: the key of sealed secrets,
 * the house authority, the spool.
 */
export const ownFolder = (folder) => join(folder, "own");

/** The account that has a folder, for root; undefined where that is root itself, or somebody else asks. */
export function ownerOf(folder) {
  const { uid, gid } = statSync(folder);
  return process.getuid() === 0 && uid !== 0 ? { uid, gid } : undefined;
}

/** Makes the folder or checks that it is ours and can be used. Throws Told. */
export function openDataFolder(folder) {
  const mark = join(folder, "nubrel.json");
  try {
    makeFolders(folder);
    if (!existsSync(mark)) {
      const found = readdirSync(folder);
      if (found.length > 0)
        throw new Told(
          `${folder} holds other things (${found.slice(0, 3).join(", ")}) and was not made by Nubrel. Choose an empty folder: NUBREL_DATA=/path/to/folder npm start`,
        );
      if (process.getuid() === 0) chmodSync(folder, 0o711); // the database's account must pass through
      writeFileSync(mark, `${JSON.stringify({ format })}\n`);
    }
    if (!existsSync(ownFolder(folder))) mkdirSync(ownFolder(folder), { mode: 0o700 });
    // Earlier versions kept them beside the database.
    for (const name of ["secrets.key", "house"])
      if (existsSync(join(folder, name)) && !existsSync(join(ownFolder(folder), name)))
        renameSync(join(folder, name), join(ownFolder(folder), name));
    writeFileSync(join(folder, ".writable"), "");
    rmSync(join(folder, ".writable"));
  } catch (error) {
    if (error.code === "EACCES" || error.code === "EPERM" || error.code === "EROFS")
      throw new Told(
        `This account may not write to ${folder} (${error.code}). Give it the folder (chown), or choose another: NUBREL_DATA=/path/to/folder npm start`,
      );
    if (error.code === "ENOSPC" || error.code === "EDQUOT")
      throw new Told(`The disk that holds ${folder} is full. Make room and start again; nothing was lost.`);
    if (error.code === "ENOENT")
      throw new Told(
        `${folder} cannot be made: its place does not take folders. Choose another: NUBREL_DATA=/path/to/folder npm start`,
      );
    if (error.code === "ENOTDIR" || error.code === "EEXIST")
      throw new Told(
        `${folder} cannot be a folder: a file stands in its way. Choose another: NUBREL_DATA=/path/to/folder npm start`,
      );
    throw error;
  }
  const made = formatOf(mark);
  if (made > format)
    throw new Told(
      `${folder} was made by a newer version of Nubrel (layout ${made}, this one knows ${format}). Start the newer version, or choose another folder with NUBREL_DATA.`,
    );
  const { bavail, bsize } = statfsSync(folder);
  if (bavail * bsize < roomNeededBytes)
    throw new Told(
      `The disk that holds ${folder} has ${Math.round((bavail * bsize) / 1e6)} MB left; Nubrel wants ${roomNeededBytes / 1e6} MB at least to start. Make room, or choose another folder with NUBREL_DATA.`,
    );
}

/**
 * Makes a folder and what is missing above it. Step by step: below /proc, mkdir with `recursive` never ends (Node.js
 * 20).
 */
function makeFolders(folder) {
  if (existsSync(folder)) return;
  if (dirname(folder) !== folder) makeFolders(dirname(folder));
  mkdirSync(folder, { mode: 0o711 });
}

function formatOf(mark) {
  try {
    return JSON.parse(readFileSync(mark, "utf8")).format;
  } catch {
    throw new Told(
      `${mark} cannot be read as Nubrel's mark. If the folder is Nubrel's, put {"format":${format}} into that file; else choose another folder with NUBREL_DATA.`,
    );
  }
}

/**
 * Notes that a start command uses the folder. Throws Told, saying where it serves, while another does. Returns
 * functions to note the address and to leave.
 */
export function occupy(folder) {
  const file = join(folder, "running.json");
  for (;;) {
    try {
      writeFileSync(file, JSON.stringify({ pid: process.pid, folder: realpathSync(folder) }), {
        flag: "wx",
        mode: 0o600,
      });
      break;
    } catch (error) {
      if (error.code !== "EEXIST") throw error;
      const other = runningIn(folder);
      if (other)
        throw new Told(
          `Nubrel already runs with this data${other.address ? `, at ${other.address}` : " and is just starting"} (process ${other.pid}). Open it there, or stop it with Ctrl+C where it was started.`,
        );
      rmSync(file, { force: true }); // left by one that was killed
    }
  }
  return {
    serves: (address, token) =>
      writeFileSync(file, JSON.stringify({ pid: process.pid, folder: realpathSync(folder), address, token })),
    leave: () => rmSync(file, { force: true }),
  };
}

/**
 * What the start command that uses the folder noted (its address and the command line's token once it serves);
 * undefined where none runs. In a copied folder stands what the original's noted.
 */
export function runningIn(folder) {
  const found = readRunning(join(folder, "running.json"));
  return found && found.folder === realpathSync(folder) && isStartCommand(found.pid) ? found : undefined;
}

function readRunning(file) {
  try {
    return JSON.parse(readFileSync(file, "utf8"));
  } catch {
    return undefined;
  }
}

/**
 * Whether the process lives and is a start command, or the command line: its number may have gone to another program
 * since.
 */
function isStartCommand(pid) {
  try {
    return /scripts\/(start|nubrel)\.mjs/.test(readFileSync(`/proc/${pid}/cmdline`, "utf8"));
  } catch {
    return false;
  }
}
