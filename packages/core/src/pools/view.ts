import type { InstanceView, PlayerId, RoomId } from "@yellow-harbor/protocol";
import type { HarborState } from "../harbor/state.ts";
import type { Instance, OwedPass } from "./state.ts";

export function instanceView(instance: Instance): InstanceView {
  const { id, pool, build, state, why, changedAtMs, orderedAtMs, address, pid, room, match, gone, exitCode, signal } =
    instance;
  const berths = [...(match?.berths.values() ?? [])].map(({ player, name, state }) => ({ player, name, state }));
  return {
    ...{ id, pool, build, state, why, changedAtMs, orderedAtMs, address, berths },
    ...(pid !== null && { pid }),
    ...(room !== null && { room }),
    ...(match !== null && { run: match.run }),
    // Nothing of a view may be null: in a merge patch that means "remove".
    ...(gone && { exit: { ...(exitCode !== null && { code: exitCode }), ...(signal !== null && { signal }) } }),
  };
}

/** The pass of a member who may board and has not: all of it but the signature. */
export function owedPass(state: HarborState, room: RoomId, player: PlayerId): OwedPass | undefined {
  const run = state.rooms.byId.get(room)?.run;
  const travel = run == null ? undefined : state.travels.byRun.get(run);
  if (travel === undefined || travel.destination === null) return undefined;
  const { instance, address } = travel.destination;
  const match = state.pools.instances.get(instance)?.match;
  const berth = match?.berths.get(player);
  if (match == null || match.run !== run || berth?.state !== "reserved") return undefined;
  const { level } = match;
  return { pass: berth.pass, player, room, run: match.run, level, instance, address, expiresAtMs: travel.deadlineMs };
}
