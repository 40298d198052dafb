import { type Harbor, lobbySummary, machineViews, poolView, queueSummary } from "@yellow-harbor/core";
import { InstanceState, Phase } from "@yellow-harbor/protocol";
import type { SetGauge } from "./metrics.ts";

/** What is so in a harbor at a moment. */
export function setFromState({ state, rules }: Harbor, atMs: number, set: SetGauge): void {
  const { here, byId } = state.players;
  set("yh_players", [{ presence: "here" }, here], [{ presence: "away" }, byId.size - here]);
  set("yh_players_limit", [{}, rules.players.limit]);
  for (const [lobby, { title }] of rules.lobbies) {
    set("yh_lobby_players", [{ lobby }, lobbySummary(state, lobby, title).players]);
  }
  setRooms(state, set);
  for (const queue of rules.queues.keys()) {
    const { tickets, players, oldestSinceMs } = queueSummary(state, rules, queue);
    set("yh_queue_tickets", [{ queue }, tickets]);
    set("yh_queue_players", [{ queue }, players]);
    set("yh_queue_oldest_wait_seconds", [{ queue }, oldestSinceMs === undefined ? 0 : (atMs - oldestSinceMs) / 1_000]);
  }
  setInstances(state, set);
  for (const pool of rules.pools.keys()) {
    const view = poolView(state, rules, pool, atMs);
    if (view === undefined) continue;
    set("yh_pool_max", [{ pool }, view.max]);
    set("yh_pool_idle", [{ pool }, view.idle]);
    set("yh_pool_failures", [{ pool }, view.failures]);
    set("yh_pool_paused", [{ pool }, view.mode === "paused" ? 1 : 0]);
    if (view.plan) set("yh_pool_wanted", [{ pool }, view.plan.wanted]);
    if (view.plan) set("yh_pool_held_back", [{ pool }, view.plan.heldBack]);
  }
  for (const { id: machine, isThere, running, max, mode } of machineViews(state, rules)) {
    set("yh_machine_up", [{ machine }, isThere ? 1 : 0]);
    set("yh_machine_instances", [{ machine }, running]);
    set("yh_machine_max", [{ machine }, max]);
    set("yh_machine_closed", [{ machine }, mode === undefined ? 0 : 1]);
  }
}

function setRooms({ rooms, travels }: Harbor["state"], set: SetGauge): void {
  const byPhase = new Map<Phase, number>(Phase.options.map((phase) => [phase, 0]));
  let members = 0;
  for (const room of rooms.byId.values()) {
    byPhase.set(room.stage.phase, (byPhase.get(room.stage.phase) ?? 0) + 1);
    members += room.members.size;
  }
  set("yh_rooms", ...[...byPhase].map(([phase, count]) => [{ phase }, count] as const));
  set("yh_room_members", [{}, members]);
  set("yh_travels_under_way", [{}, travels.byRun.size]);
}

function setInstances({ pools }: Harbor["state"], set: SetGauge): void {
  const byPool = new Map<string, Map<InstanceState, number>>();
  for (const { pool, state, gone } of pools.instances.values()) {
    if (gone) continue;
    const counts = byPool.get(pool) ?? new Map(InstanceState.options.map((one) => [one, 0]));
    counts.set(state, (counts.get(state) ?? 0) + 1);
    byPool.set(pool, counts);
  }
  for (const [pool, counts] of byPool) {
    set("yh_instances", ...[...counts].map(([state, count]) => [{ pool, state }, count] as const));
  }
}
