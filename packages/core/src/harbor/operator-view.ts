import type { ConfigName, HarborView, InstanceId, Patch, RoomId } from "@yellow-harbor/protocol";
import { lobbies } from "../lobbies/index.ts";
import type { HarborEvent } from "../model/event.ts";
import type { Push } from "../model/push.ts";
import { only, recordOf } from "../model/record.ts";
import type { HarborRules } from "../model/rules.ts";
import type { HarborState } from "../model/state.ts";
import { pools } from "../pools/index.ts";
import { queues } from "../queues/index.ts";
import { rooms } from "../rooms/index.ts";
import { capabilityOf } from "./capabilities.ts";

/** Everything an operator watches. */
export function harborView(state: HarborState, rules: HarborRules): HarborView {
  return {
    harbor: rules.harbor,
    lobbies: Object.fromEntries(
      [...rules.lobbies].map(([id, { title }]) => [id, lobbies.views.summary(state, id, title)]),
    ),
    rooms: recordOf([...state.rooms.byId.values()].map((room) => [room.id, rooms.views.room(state, room)])),
    queues: Object.fromEntries([...rules.queues.keys()].map((id) => [id, queues.views.summary(state, rules, id)])),
    instances: recordOf([...state.pools.instances.values()].map((one) => [one.id, pools.views.instance(state, one)])),
  };
}

/** The merge patch that takes an operator's view over an event that was just applied. */
export function operatorPatch(
  state: HarborState,
  rules: HarborRules,
  event: HarborEvent,
  pushes: readonly Push[],
): Patch {
  if (event.kind === "harbor.recovered" || event.kind === "harbor.founded") {
    return Object.fromEntries(Object.entries(harborView(state, rules)));
  }
  if (event.kind === "harbor.rules-changed") return { lobbies: harborView(state, rules).lobbies };
  if (event.kind === "harbor.queue-rules-changed") return queuesPatch(state, rules, event.gone);
  const { room, lobby, queues: touched = [], instance } = capabilityOf(event.kind).touches?.(state, event) ?? {};
  return {
    ...(room !== undefined && roomPatch(state, room, event.kind, pushes)),
    ...(lobby !== undefined && lobbyPatch(state, rules, lobby)),
    ...(touched.length > 0 && queuePatch(state, rules, touched)),
    ...(instance !== undefined && instancePatch(state, instance)),
  };
}

/** Any of them may have other rules by now. */
function queuesPatch(state: HarborState, rules: HarborRules, gone: readonly ConfigName[]): Patch {
  const { queues: present } = harborView(state, rules);
  return { queues: { ...present, ...Object.fromEntries(gone.map((queue) => [queue, null])) } };
}

/** The whole of its numbers, and those of its lobby, where its players are counted too. */
function queuePatch(state: HarborState, rules: HarborRules, names: readonly ConfigName[]): Patch {
  const summaries = names.map((name) => queues.views.summary(state, rules, name));
  const lobby = summaries.map((summary) => summary.lobby).find((id) => rules.lobbies.has(id));
  return {
    queues: Object.fromEntries(
      summaries.map((summary) => [summary.id, { oldestSinceMs: null, lately: null, ...summary }]),
    ),
    ...(lobby !== undefined && lobbyPatch(state, rules, lobby)),
  };
}

function lobbyPatch(state: HarborState, rules: HarborRules, lobby: ConfigName): Patch {
  const title = rules.lobbies.get(lobby)?.title ?? lobby;
  return { lobbies: { [lobby]: lobbies.views.summary(state, lobby, title) } };
}

function roomPatch(state: HarborState, id: RoomId, kind: HarborEvent["kind"], pushes: readonly Push[]): Patch {
  const room = state.rooms.byId.get(id);
  if (room === undefined) return { rooms: only(id, null) };
  if (kind === "room.opened" || kind === "room.set-up") return { rooms: only(id, rooms.views.room(state, room)) };
  const push = pushes.find((one) => one.scope === "room");
  return push?.scope === "room" ? { rooms: only(id, { ...push.patch, revision: push.revision }) } : {};
}

/** The whole instance each time: it is small, and what is absent now must be removed. */
function instancePatch(state: HarborState, id: InstanceId): Patch {
  const instance = state.pools.instances.get(id);
  const patch = instance && { pid: null, differences: null, ...pools.views.instance(state, instance) };
  return { instances: { [id]: patch ?? null } };
}
