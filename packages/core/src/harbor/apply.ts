import { applyBuild } from "../builds/index.ts";
import type { LobbyEvent } from "../lobbies/events.ts";
import { applyLobby, markStandersAway } from "../lobbies/index.ts";
import { applyMachine } from "../machines/index.ts";
import { applyPlan, learnFrom } from "../planner/index.ts";
import { applyPlayer, befall, losePlayers } from "../players/index.ts";
import { applyPool } from "../pools/index.ts";
import type { QueueEvent } from "../queues/events.ts";
import { applyQueue, endingsOf, holdTickets, isSeenInRoom, linkRoom, passSoon, unlinkRoom } from "../queues/index.ts";
import { applyRoom, isSeenInDirectory, markMembersAway, touchRoom } from "../rooms/index.ts";
import { applyTravel, isSeen } from "../travel/index.ts";
import { sortEvent } from "./capability.ts";
import { assertNever } from "./decision.ts";
import type { HarborEvent, OwnEvent } from "./event.ts";
import type { HarborState } from "./state.ts";

/** The only thing that changes state, live and on recovery alike. `at` is the time the event was decided. */
export function apply(state: HarborState, event: HarborEvent, at: number): void {
  const sorted = sortEvent(event);
  switch (sorted.capability) {
    case "harbor":
      return applyOwn(state, sorted.event, at);
    case "player":
      applyPlayer(state, sorted.event);
      if (sorted.event.kind === "player.left") state.queues.pauses.delete(sorted.event.player);
      return;
    case "lobby":
      applyLobby(state, sorted.event, at);
      return keepPutOut(state, sorted.event, at);
    case "room":
      applyRoom(state, sorted.event, at);
      if (isSeenInDirectory(sorted.event)) state.derived.directory.touch(sorted.event.room);
      if (sorted.event.kind === "room.opened" && sorted.event.match) {
        linkRoom(state, sorted.event.match.id, sorted.event.room);
      }
      if (sorted.event.kind === "room.closed") unlinkRoom(state, sorted.event.room);
      // Every event of a room but the last, and every one of a travel that is seen, changes the picture the members hold by one revision.
      if (sorted.event.kind !== "room.closed") touchRoom(state, sorted.event.room);
      return;
    case "travel":
      applyTravel(state, sorted.event, at);
      if (isSeen(sorted.event)) touchRoom(state, sorted.event.room);
      return;
    case "queue":
      applyQueue(state, sorted.event, at);
      keepEndings(state, sorted.event, at);
      if (isSeenInRoom(state, sorted.event)) touchRoom(state, sorted.event.room);
      return;
    case "machine":
      return applyMachine(state, sorted.event, at);
    case "build":
      return applyBuild(state, sorted.event, at);
    case "plan":
      return applyPlan(state, sorted.event, at);
    case "pool": {
      applyPool(state, sorted.event, at);
      const pool = state.pools.instances.get(sorted.event.instance)?.pool;
      if (pool !== undefined) learnFrom(state, sorted.event, pool, at);
      return;
    }
    default:
      assertNever(sorted);
  }
}

/** A player is told alone that it is out of its room: in no picture, so it is kept. */
function keepPutOut(state: HarborState, event: LobbyEvent, at: number): void {
  if (event.kind !== "lobby.stood" || !event.because) return;
  befall(state, event.player, { kind: "out-of-room", atMs: at, ...event.because });
}

/** The same for a search that is over. */
function keepEndings(state: HarborState, event: QueueEvent, at: number): void {
  for (const { player, ...ending } of endingsOf(state, event)) {
    befall(state, player, { kind: "ticket-ended", atMs: at, ...ending });
  }
}

function applyOwn(state: HarborState, event: OwnEvent, at: number): void {
  if (event.kind === "harbor.founded") {
    state.founded = true;
    state.rooms.codeKey = event.codeKey;
    return;
  }
  if (event.kind === "harbor.queues-changed") {
    // Whoever has no place under other rules is told at once, and whoever fits better is not kept waiting.
    for (const queue of [...event.changed, ...event.gone])
      if (state.queues.byName.has(queue)) passSoon(state, queue, at);
    return;
  }
  losePlayers(state, event.graceMs, at);
  markStandersAway(state);
  markMembersAway(state, at);
  for (const room of state.rooms.byId.keys()) state.derived.directory.touch(room);
  holdTickets(state, at);
}
