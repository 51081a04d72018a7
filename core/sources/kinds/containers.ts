import type { ContainerChoice } from "../container-choice.ts";
import type { DeviceKind } from "./device-kind.ts";

/** Containers of an engine on this machine: by its socket, and by control groups. */
export interface ContainersDevice extends ContainerChoice {
  readonly kind: "containers";
  /** Path of the engine's socket; empty: control groups only. */
  readonly socket: string;
  readonly timeoutMs: number;
}

export const containersKind: DeviceKind<ContainersDevice> = {
  words: "container engine",
  ways: [
    {
      id: "engine",
      has: "a container engine on this machine",
      what: "each container by name, image and label, with its health and restarts; by the engine's socket",
    },
  ],
  asks: "Where is the engine's socket?",
  act: "Try it",
  fresh: {
    kind: "containers",
    socket: "/run/docker.sock",
    timeoutMs: 5000,
    rules: [],
    labels: [],
    command: false,
  },
  lines: [
    [
      "Ask the engine at ",
      {
        holds: "text",
        name: "socket",
        label: "path of the socket",
        letters: 36,
        most: 300,
        pattern: /^\//,
        madeOf: "a path that begins with /",
        absent: "",
      },
      { hint: "on the machine that Nubrel runs on; empty: control groups alone" },
    ],
    [
      "Labels that become tags: ",
      { holds: "texts", name: "labels", label: "labels", each: 200, most: 20, example: "role, tier" },
    ],
    [{ holds: "yes or no", name: "command", label: "the command becomes a tag", absent: false }],
  ],
  credentials: "none",
  showsCertificate: () => false,
  text: ({ socket }) => (socket === "" ? "control groups of this machine" : socket),
  name: () => "",
};
