import { accept, type Decision, type PoolsContext } from "../model/decision.ts";
import type { Effect } from "../model/effect.ts";
import type { InstanceCommand, OutputEvent } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { matchesOf } from "../model/pools/holds.ts";
import type { Instance, InstanceMatch } from "../model/pools/state.ts";

type Hear = Extract<InstanceCommand, { do: "instance.output" }>;

/**
 * What an instance that knows nothing of us has told by what it prints. Each line counts once: how far was read is kept
 * with what came of it, so a service that starts again reads on from there.
 */
export function hear(context: PoolsContext, instance: Instance, { stream, upTo, anew, said }: Hear): Decision {
  if (instance.gone || (!anew && upTo <= instance.outputRead[stream])) return accept([]);
  const events: PoolEvent[] = [];
  const effects: Effect[] = [];
  // What a line brings about is not applied yet when the next is looked at: kept here until then.
  const inside = new Map([...(matchesOf(instance)[0]?.berths ?? [])].map(([id, { state }]) => [id, state]));
  let isOver = false;
  let isReady = instance.announced;
  for (const one of said) {
    const match = matchesOf(instance)[0];
    if (one.what === "ready") {
      if (isReady || instance.state !== "booting") continue;
      isReady = true;
      events.push({ kind: "instance.announced", instance: instance.id });
      effects.push({ effect: "probe-instance", instance: instance.id, address: instance.address });
    } else if (match === undefined || isOver) continue;
    else if (one.what === "over") {
      isOver = true;
      events.push(...over(context, instance, match, inside));
    } else events.push(...passed(instance, match, one, inside));
  }
  return accept([...events, { kind: "instance.output-read", instance: instance.id, stream, upTo }], { effects });
}

type Inside = Map<string, "reserved" | "taken" | "left">;

/** Somebody has come in or gone, by its id, name or place. */
function passed(
  { id: instance }: Instance,
  { berths, run }: InstanceMatch,
  { what, who }: Extract<OutputEvent, { what: "joined" | "left" }>,
  inside: Inside,
): PoolEvent[] {
  const named = [...berths.values()].filter((one) => String(one[who.by === "id" ? "player" : who.by]) === who.text);
  // Two may have one name: who comes in is one that is not there yet, who goes is one that is.
  const berth = named.find((one) => (inside.get(one.player) === "taken") === (what === "left")) ?? named[0];
  if (berth === undefined) {
    const player = `${who.by} ${who.text}`.slice(0, 80);
    return [{ kind: "instance.differed", instance, player, what: what === "joined" ? "not-expected" : null }];
  }
  const { player, name } = berth;
  const state = inside.get(player);
  if (what === "joined") {
    if (state === "taken") return [];
    inside.set(player, "taken");
    return [{ kind: "instance.boarded", instance, player, name, run }];
  }
  if (state !== "taken") return [];
  inside.set(player, "left");
  return [{ kind: "instance.unboarded", instance, player, name, reason: "left", run }];
}

/** The match is over. Who has a berth and was never heard of is shown: its line is missing. */
function over(
  { state }: PoolsContext,
  instance: Instance,
  { room: id, run, berths }: InstanceMatch,
  inside: Inside,
): PoolEvent[] {
  const room = state.seen.rooms.room(id);
  // Of a match that has not begun there is no result; the travel's own deadline deals with it.
  if (room?.stage.phase !== "playing") return [];
  const silent = [...berths.keys()].filter((player) => inside.get(player) === "reserved");
  const missing = silent.map(
    (player): PoolEvent => ({ kind: "instance.differed", instance: instance.id, player, what: "never-said" }),
  );
  if (room.policy.resultBy !== "instance") return missing;
  const note = "its output says that the match is over";
  return [{ kind: "instance.reported", instance: instance.id, room: id, run, standings: [], note }, ...missing];
}
