import { bans } from "../bans/index.ts";
import { builds } from "../builds/index.ts";
import { fleets } from "../fleets/index.ts";
import { lobbies } from "../lobbies/index.ts";
import { machines } from "../machines/index.ts";
import type { Capability } from "../model/capability.ts";
import type { Command } from "../model/command.ts";
import { parties } from "../parties/index.ts";
import { planner } from "../planner/index.ts";
import { players } from "../players/index.ts";
import { pools } from "../pools/index.ts";
import { privateEntries } from "../private-entries/index.ts";
import { queues } from "../queues/index.ts";
import { ratings } from "../ratings/index.ts";
import { relations } from "../relations/index.ts";
import { rooms } from "../rooms/index.ts";
import { travel } from "../travel/index.ts";
import { own } from "./own.ts";

/** All that a harbor can do. The order is that in which faults are listed. */
export const capabilities: readonly Capability[] = [
  own,
  players,
  relations,
  bans,
  rooms,
  privateEntries,
  travel,
  lobbies,
  parties,
  queues,
  ratings,
  pools,
  builds,
  machines,
  fleets,
  planner,
];

const byName: ReadonlyMap<string, Capability> = new Map(
  capabilities.flatMap((one) => one.names.map((name) => [name, one] as const)),
);

/** The capability that a command or an event belongs to, by the part of its name before the dot. */
export function capabilityOf(name: string): Capability {
  const found = byName.get(name.slice(0, name.indexOf(".")));
  if (found === undefined) throw new Error(`no capability is registered for ${name}`);
  return found;
}

const due: ReadonlyMap<string, (subject: string) => Command> = new Map(
  capabilities.flatMap((one) => Object.entries(one.due ?? {})),
);

/** What is done when a deadline falls due. */
export function commandFor({ kind, subject }: { readonly kind: string; readonly subject: string }): Command {
  const command = due.get(kind);
  if (command === undefined) throw new Error(`no capability says what is done when ${kind} falls due`);
  return command(subject);
}
