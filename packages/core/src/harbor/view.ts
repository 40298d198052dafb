import type { HarborView, Patch } from "@yellow-harbor/protocol";
import { tellBuild } from "../builds/index.ts";
import { lobbyPushes, lobbySummary } from "../lobbies/index.ts";
import { tellMachine } from "../machines/index.ts";
import { tellPlan } from "../planner/index.ts";
import { tellPlayer } from "../players/index.ts";
import { instanceView, poolPushes, tellPool } from "../pools/index.ts";
import { isSeenInRoom, queuePushes, queueSummary, tellQueue } from "../queues/index.ts";
import { roomPushes, roomView, tellRoom } from "../rooms/index.ts";
import { tellTravel, travelPushes } from "../travel/index.ts";
import { sortEvent } from "./capability.ts";
import { assertNever } from "./decision.ts";
import type { HarborEvent, OwnEvent } from "./event.ts";
import type { Push } from "./push.ts";
import { only, recordOf } from "./record.ts";
import type { HarborRules } from "./rules.ts";
import type { HarborState } from "./state.ts";

/** What players have to be told about an event that was just applied. */
export function pushesOf(state: HarborState, event: HarborEvent): readonly Push[] {
  const sorted = sortEvent(event);
  switch (sorted.capability) {
    case "lobby":
      return lobbyPushes(state, sorted.event);
    case "room":
      return roomPushes(state, sorted.event);
    case "travel":
      return travelPushes(state, sorted.event);
    case "build":
    case "machine":
    case "plan":
      return [];
    case "queue":
      return queuePushes(state, sorted.event);
    case "pool":
      return poolPushes(state, sorted.event);
    case "harbor":
    case "player":
      return [];
    default:
      return assertNever(sorted);
  }
}

/** The event in a sentence, from the state after it; undefined when it says nothing that another event does not. */
export function tell(state: HarborState, event: HarborEvent, at: number): string | undefined {
  const sorted = sortEvent(event);
  switch (sorted.capability) {
    case "harbor":
      return tellOwn(sorted.event);
    case "player":
      return tellPlayer(state, sorted.event, at);
    case "lobby":
      return undefined;
    case "room":
      return tellRoom(state, sorted.event);
    case "travel":
      return tellTravel(state, sorted.event);
    case "machine":
      return tellMachine(sorted.event);
    case "build":
      return tellBuild(sorted.event);
    case "plan":
      return tellPlan(sorted.event);
    case "queue":
      return tellQueue(state, sorted.event);
    case "pool":
      return tellPool(state, sorted.event);
    default:
      return assertNever(sorted);
  }
}

function tellOwn(event: OwnEvent): string {
  switch (event.kind) {
    case "harbor.founded":
      return "The harbor is founded.";
    case "harbor.recovered":
      return "The service was started anew; whoever was connected has the grace to come back.";
    case "harbor.queues-changed": {
      const others = event.changed.length === 0 ? [] : [`other rules for queue ${event.changed.join(", ")}`];
      const gone = event.gone.length === 0 ? [] : [`no queue ${event.gone.join(", ")} any more`];
      return `From here on there are ${[...others, ...gone].join(", and ")}.`;
    }
    default:
      return assertNever(event);
  }
}

/** Everything an operator watches. */
export function harborView(state: HarborState, rules: HarborRules): HarborView {
  return {
    harbor: rules.harbor,
    lobbies: Object.fromEntries([...rules.lobbies].map(([id, { title }]) => [id, lobbySummary(state, id, title)])),
    rooms: recordOf([...state.rooms.byId.values()].map((room) => [room.id, roomView(state, room)])),
    queues: Object.fromEntries([...rules.queues.keys()].map((id) => [id, queueSummary(state, rules, id)])),
    instances: recordOf([...state.pools.instances.values()].map((one) => [one.id, instanceView(one)])),
  };
}

/** The merge patch that takes an operator's picture over an event that was just applied. */
export function operatorPatch(
  state: HarborState,
  rules: HarborRules,
  event: HarborEvent,
  pushes: readonly Push[],
): Patch {
  const sorted = sortEvent(event);
  switch (sorted.capability) {
    case "harbor":
      return ownPatch(state, rules, sorted.event);
    case "player":
    case "build":
    case "machine":
    case "plan":
      return {};
    case "lobby":
      return sorted.event.kind === "lobby.tallied" ? {} : lobbyPatch(state, rules, sorted.event.lobby);
    case "room":
      return {
        ...roomPatch(state, sorted.event.room, sorted.event.kind, pushes),
        ...lobbyPatchOfRoom(state, rules, sorted.event),
      };
    case "travel":
      return roomPatch(state, sorted.event.room, sorted.event.kind, pushes);
    case "queue":
      return {
        ...queuePatch(state, rules, sorted.event.queue),
        ...(isSeenInRoom(state, sorted.event) && roomPatch(state, sorted.event.room, sorted.event.kind, pushes)),
      };
    case "pool":
      return { instances: { [sorted.event.instance]: instancePatch(state, sorted.event.instance) } };
    default:
      return assertNever(sorted);
  }
}

/** Everything may have changed at once; nothing was removed but queues. */
function ownPatch(state: HarborState, rules: HarborRules, event: OwnEvent): Patch {
  const view = harborView(state, rules);
  if (event.kind !== "harbor.queues-changed") return { ...view };
  return { queues: { ...view.queues, ...Object.fromEntries(event.gone.map((queue) => [queue, null])) } };
}

/** The whole of its numbers, and those of its lobby, where its players are counted too. */
function queuePatch(state: HarborState, rules: HarborRules, queue: string): Patch {
  const summary = queueSummary(state, rules, queue);
  return {
    queues: { [queue]: { oldestSinceMs: null, lately: null, ...summary } },
    ...(rules.lobbies.has(summary.lobby) && lobbyPatch(state, rules, summary.lobby)),
  };
}

function lobbyPatch(state: HarborState, rules: HarborRules, lobby: string): Patch {
  return { lobbies: { [lobby]: lobbySummary(state, lobby, rules.lobbies.get(lobby)?.title ?? lobby) } };
}

function lobbyPatchOfRoom(state: HarborState, rules: HarborRules, event: HarborEvent): Patch {
  const countsChange = "lobby" in event;
  return countsChange ? lobbyPatch(state, rules, event.lobby) : {};
}

function roomPatch(state: HarborState, id: string, kind: HarborEvent["kind"], pushes: readonly Push[]): Patch {
  const room = state.rooms.byId.get(id);
  if (room === undefined) return { rooms: only(id, null) };
  if (kind === "room.opened") return { rooms: only(id, roomView(state, room)) };
  const push = pushes.find((one) => one.scope === "room");
  return push?.scope === "room" ? { rooms: only(id, { ...push.patch, revision: push.revision }) } : {};
}

/** The whole instance each time: it is small, and what is absent now must be removed. */
function instancePatch(state: HarborState, id: string): Patch | null {
  const instance = state.pools.instances.get(id);
  if (instance === undefined) return null;
  return { pid: null, differences: null, ...instanceView(instance) };
}
