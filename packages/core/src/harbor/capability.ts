import type { Command, HarborCommand } from "./command.ts";
import type { HarborEvent, OwnEvent } from "./event.ts";

/** Which capability a command or an event belongs to: the part of its name before the dot. */
type Capability = "harbor" | "player" | "lobby" | "room" | "travel" | "queue" | "pool" | "plan" | "build" | "machine";

/** Commands and events of instances belong to the pools. */
const capabilityOf = (name: string): Capability => {
  const prefix = name.slice(0, name.indexOf("."));
  return prefix === "instance" ? "pool" : (prefix as Capability);
};

type Named<Union, Key extends string, Prefix extends string> = Extract<Union, { [K in Key]: `${Prefix}.${string}` }>;

/** A command with its capability, so that one switch can tell them apart. */
export type SortedCommand =
  | { capability: "harbor"; command: HarborCommand }
  | { capability: "player"; command: Named<Command, "do", "player"> }
  | { capability: "lobby"; command: Named<Command, "do", "lobby"> }
  | { capability: "room"; command: Named<Command, "do", "room"> }
  | { capability: "travel"; command: Named<Command, "do", "travel"> }
  | { capability: "queue"; command: Named<Command, "do", "queue"> }
  | { capability: "machine"; command: Named<Command, "do", "machine"> }
  | { capability: "build"; command: Named<Command, "do", "build"> }
  | { capability: "plan"; command: Named<Command, "do", "plan"> }
  | { capability: "pool"; command: Named<Command, "do", "pool" | "instance"> };

export type SortedEvent =
  | { capability: "harbor"; event: OwnEvent }
  | { capability: "player"; event: Named<HarborEvent, "kind", "player"> }
  | { capability: "lobby"; event: Named<HarborEvent, "kind", "lobby"> }
  | { capability: "room"; event: Named<HarborEvent, "kind", "room"> }
  | { capability: "travel"; event: Named<HarborEvent, "kind", "travel"> }
  | { capability: "queue"; event: Named<HarborEvent, "kind", "queue"> }
  | { capability: "machine"; event: Named<HarborEvent, "kind", "machine"> }
  | { capability: "build"; event: Named<HarborEvent, "kind", "build"> }
  | { capability: "plan"; event: Named<HarborEvent, "kind", "plan"> }
  | { capability: "pool"; event: Named<HarborEvent, "kind", "instance"> };

export const sortCommand = (command: Command): SortedCommand =>
  ({ capability: capabilityOf(command.do), command }) as SortedCommand;

export const sortEvent = (event: HarborEvent): SortedEvent =>
  ({ capability: capabilityOf(event.kind), event }) as SortedEvent;
