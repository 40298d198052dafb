import type { PlayerId } from "@yellow-harbor/protocol";
import type { Berth } from "../model/berth.ts";
import { accept, type Decision, type PoolsContext } from "../model/decision.ts";
import type { Effect } from "../model/effect.ts";
import { outcomeOf } from "../model/outcome.ts";
import type { InstanceCommand, Named, OutputEvent } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { matchesOf } from "../model/pools/holds.ts";
import type { Instance, InstanceMatch } from "../model/pools/state.ts";
import { probeEffect } from "./probing.ts";

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
  const scores = new Map(matchesOf(instance)[0]?.scores);
  let isOver = false;
  let isReady = instance.announced;
  for (const one of said) {
    const match = matchesOf(instance)[0];
    if (one.what === "ready") {
      if (isReady || instance.state !== "booting") continue;
      isReady = true;
      events.push({ kind: "instance.announced", instance: instance.id });
      effects.push(probeEffect(context.state, instance));
    } else if (match === undefined || isOver) continue;
    else if (one.what === "over") {
      isOver = true;
      events.push(...over(context, instance, match, { inside, scores }));
    } else if (one.what === "score") note(match, one, { inside, scores });
    else events.push(...passed(instance, match, one, inside));
  }
  const read: PoolEvent = { kind: "instance.output-read", instance: instance.id, stream, upTo };
  return accept([...scored(instance, scores), ...events, read], { effects });
}

/** What a line says of somebody's score. One of nobody here is left alone. */
function note(
  match: InstanceMatch,
  { who, score }: Extract<OutputEvent, { what: "score" }>,
  { inside, scores }: { readonly inside: Inside; readonly scores: Map<PlayerId, number> },
): void {
  const player = berthNamed(match, who, inside)?.player;
  if (player !== undefined) scores.set(player, score);
}

/** The scores that are others than those that are known. */
function scored(instance: Instance, scores: ReadonlyMap<PlayerId, number>): PoolEvent[] {
  const match = matchesOf(instance)[0];
  if (match === undefined) return [];
  const { run } = match;
  return [...scores]
    .filter(([player, score]) => match.scores.get(player) !== score)
    .map(([player, score]) => ({ kind: "instance.scored", instance: instance.id, player, run, score }));
}

/** Two may have one name: the one that is in there, or is not, as the line says; the first of several. */
function berthNamed({ berths }: InstanceMatch, { by, text }: Named, inside: Inside, isIn = true): Berth | undefined {
  const named = [...berths.values()].filter((one) => String(one[by === "id" ? "player" : by]) === text);
  return named.find((one) => (inside.get(one.player) === "taken") === isIn) ?? named[0];
}

type Inside = Map<string, "reserved" | "taken" | "left">;

/** Somebody has come in or gone, by its id, name or place. */
function passed(
  { id: instance }: Instance,
  match: InstanceMatch,
  { what, who }: Extract<OutputEvent, { what: "joined" | "left" }>,
  inside: Inside,
): PoolEvent[] {
  const { run } = match;
  const berth = berthNamed(match, who, inside, what === "left");
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
  { inside, scores }: { readonly inside: Inside; readonly scores: ReadonlyMap<PlayerId, number> },
): PoolEvent[] {
  const room = state.seen.rooms.room(id);
  // Of a match that has not begun there is no result; the travel's own deadline deals with it.
  if (room?.stage.phase !== "playing") return [];
  const silent = [...berths.keys()].filter((player) => inside.get(player) === "reserved");
  const missing = silent.map(
    (player): PoolEvent => ({ kind: "instance.differed", instance: instance.id, player, what: "never-said" }),
  );
  if (room.policy.resultBy !== "instance") return missing;
  const { standings } = outcomeOf({ standings: [...scores].map(([player, score]) => ({ player, score })) });
  const note = "its output says that the match is over";
  return [{ kind: "instance.reported", instance: instance.id, room: id, run, standings, note }, ...missing];
}
