import type { Standing } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type QueuesContext, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { RatingCommand } from "../model/ratings/commands.ts";
import type { RatingChange, Went } from "../model/ratings/events.ts";
import type { RatingRules } from "../model/ratings/rules.ts";
import type { RatedRoom, Rating } from "../model/ratings/state.ts";
import type { Done } from "../model/replies.ts";
import type { QueuesPart } from "../model/state.ts";
import { type Before, ratedSides, unrated } from "./sides.ts";

type Doing<K extends RatingCommand["do"]> = Extract<RatingCommand, { do: K }>;

export const decideRating = decideBy<RatingCommand, QueuesPart>({
  "rating.watch": watch,
  "rating.settle": settle,
  "rating.set": set,
  "rating.begin-season": beginSeason,
});

const rulesOf = ({ rules }: QueuesContext, queue: string): RatingRules | null =>
  rules.queues.get(queue)?.rating ?? null;

function watch(context: QueuesContext, { queue, match, room }: Doing<"rating.watch">): Decision {
  const { state } = context;
  const made = state.queues.matches.get(match);
  if (rulesOf(context, queue) === null || made === undefined || made.into !== undefined) return nothingToDo;
  const sides = made.sides.map((side) =>
    side.map((player) => ({ player, account: state.seen.rooms.player(player)?.identity?.account ?? null })),
  );
  return accept([{ kind: "rating.match-began", queue, match, room, sides }]);
}

function settle(context: QueuesContext, { room, standings }: Doing<"rating.settle">): Decision {
  const { state, at } = context;
  const watched = state.ratings.rooms.get(room);
  if (watched === undefined) return nothingToDo;
  const { queue } = watched;
  const rules = rulesOf(context, queue);
  const ranks = rules === null ? "its queue rates nobody any more" : ranksOf(watched, standings);
  if (rules === null || typeof ranks === "string") {
    return accept([{ kind: "rating.match-void", queue, room, why: String(ranks) }]);
  }
  const known = state.ratings.byQueue.get(queue);
  const members = state.seen.rooms.room(room)?.members;
  const left = watched.sides.flat().flatMap(({ player }) => (members?.has(player) ? [] : [player]));
  const sides = watched.sides.map((players, n) => ({
    rank: ranks[n] as number,
    players: players.map(({ player, account }) => ({
      before: before(rules, known?.get(account ?? "")),
      left: left.includes(player),
    })),
  }));
  const after = ratedSides(rules, sides, at);
  const changes = watched.sides.flatMap((players, n) =>
    players.flatMap(({ player, account }, at): RatingChange[] => {
      const [one, next] = [sides[n]?.players[at], after[n]?.[at]];
      if (account === null || !one || !next) return [];
      return [{ account, player, went: wentOf(ranks, n, one.left), before: one.before.rating, after: next }];
    }),
  );
  const ranked = watched.sides.map((players, n) => ({ players, rank: ranks[n] as number }));
  return accept([{ kind: "rating.changed", queue, room, sides: ranked, left, changes }]);
}

const before = (rules: RatingRules, known: Rating | undefined): Before => known ?? unrated(rules);

function wentOf(ranks: readonly number[], side: number, left: boolean): Went {
  if (left) return "left";
  const own = ranks[side] ?? 1;
  if (ranks.every((rank) => rank === own)) return "drawn";
  return own === Math.min(...ranks) ? "won" : "lost";
}

/** Sides by the sum of what their players scored; or why the result says nothing of them. */
function ranksOf({ sides }: RatedRoom, standings: readonly Standing[]): readonly number[] | string {
  if (sides.length < 2) return "it has one side alone";
  const scores = new Map(standings.map(({ player, score }) => [player, score]));
  const sums = sides.map((side) => {
    const own = side.flatMap(({ player }) => scores.get(player) ?? []);
    return own.length === 0 ? undefined : own.reduce((sum, score) => sum + score, 0);
  });
  if (sums.every((sum) => sum === undefined)) return "its result names nobody of the match";
  // A side that is not named has lost.
  const all = sums.map((sum) => sum ?? Number.NEGATIVE_INFINITY);
  return all.map((sum) => 1 + all.filter((other) => other > sum).length);
}

function set(context: QueuesContext, { queue, account, rating, deviation, by }: Doing<"rating.set">): Decision<Done> {
  const rules = rulesOf(context, queue);
  if (rules === null) return notRated(context, queue);
  const known = context.state.ratings.byQueue.get(queue)?.get(account);
  const next: Rating = {
    ...before(rules, known),
    rating,
    deviation: deviation ?? known?.deviation ?? rules.deviation,
    atMs: context.at,
  };
  return accept([{ kind: "rating.set", queue, account, rating: next, by }], { reply: () => ({}) });
}

function beginSeason(
  context: QueuesContext,
  { queue, keep, minDeviation, by }: Doing<"rating.begin-season">,
): Decision<Done> {
  const rules = rulesOf(context, queue);
  if (rules === null) return notRated(context, queue);
  const { start, deviation } = rules;
  const event = {
    kind: "rating.season-began",
    queue,
    start,
    keep,
    minDeviation: minDeviation ?? deviation,
    by,
  } as const;
  return accept([event], { reply: () => ({}) });
}

function notRated({ rules }: QueuesContext, queue: string) {
  const accepted = [...rules.queues].flatMap(([id, { rating }]) => (rating ? [id] : []));
  const known = accepted.length === 0 ? "none does" : `these do: ${accepted.join(", ")}`;
  return refuse("queue-unknown", `Queue ${queue} rates nobody, or is not there; ${known}.`, { accepted });
}
