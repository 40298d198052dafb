import { addressText } from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import type { Difference } from "../model/pools/state.ts";
import type { PoolsPart } from "../model/state.ts";

export const DIFFERENCE: Readonly<Record<Difference["what"], string>> = {
  "not-there": "it has boarded, and the instance does not list it",
  "not-expected": "the instance lists it, and it has no berth",
  "never-said": "it has a berth, and no line said that it joined",
};

/** The event in a sentence, from the state after it. */
export function describePool(state: PoolsPart, event: PoolEvent): string | undefined {
  const id = event.instance;
  const instance = state.pools.instances.get(id);
  const where = instance ? addressText(instance.address) : "";
  switch (event.kind) {
    case "instance.launched":
      return `Instance ${id} is launched at ${where}: ${event.why}.`;
    case "instance.allocated":
      return `Instance ${id} is allocated to the room: ${event.why}.`;
    case "instance.returned":
      return `Instance ${id} is free again: ${event.reason}.`;
    case "instance.booting":
      return `Instance ${id} is started as process ${event.pid}.`;
    case "instance.announced":
      return `Instance ${id} announces itself.`;
    case "instance.opened":
      return `Instance ${id} is open at ${where}: ${event.detail}.`;
    case "instance.assigned":
      return `Instance ${id} is given a match on ${event.match.level} for ${event.match.players.map((one) => one.name).join(", ")}.`;
    case "instance.berth-added":
      return `${event.player.name} gets a berth on ${id}, which is under way.`;
    case "instance.match-started":
      return `Instance ${id} is told to start; ${event.without.length} of its players may follow.`;
    case "instance.match-ended":
      return `The match on ${id} is ended: ${event.reason}.`;
    case "instance.draining":
      return `Instance ${id} takes no new room: ${event.why}.`;
    case "instance.reclaimed":
      return `Instance ${id} is reclaimed: ${event.why}.`;
    case "instance.differed":
      return event.what === null
        ? `Instance ${id} and the harbor agree about ${event.player} again.`
        : `Instance ${id} differs about ${event.player}: ${DIFFERENCE[event.what]}.`;
    case "instance.output-read":
    case "instance.acknowledged":
    case "instance.forgotten":
      return undefined;
    case "instance.boarded":
      return `${event.name} boards ${id}.`;
    case "instance.match-changed":
      return undefined;
    case "instance.unboarded":
      return `${event.name} left ${id}: ${event.reason}.`;
    case "instance.scored":
      return `Instance ${id} prints a score of ${event.score} for ${event.player}.`;
    case "instance.reported":
      return `Instance ${id} reports the result.`;
    case "instance.stop-requested":
      return `Instance ${id} is asked to stop: ${event.reason}.`;
    case "instance.stop-forced":
      return `Instance ${id} is ${event.how === "kill" ? "killed" : "signalled"}: it did not stop when asked.`;
    case "instance.exiting":
      return `Instance ${id} says goodbye: ${event.reason}.`;
    case "instance.failed":
      return `Instance ${id} has failed: ${event.why}.`;
    case "instance.exited":
      return `Instance ${id} is ${event.state}: ${event.why}.`;
    default:
      return assertNever(event);
  }
}
