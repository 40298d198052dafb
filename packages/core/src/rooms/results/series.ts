import type { PlayerId, RoomPolicy, SeriesView, SideName } from "@yellow-harbor/protocol";
import type { Outcome } from "../../model/outcome.ts";
import { rank } from "../../model/rank.ts";
import type { Room, Series } from "../../model/rooms/state.ts";

const FRESH: Series = { played: 0, swaps: 0, wins: {}, totals: {}, over: false };

/** What a result makes of the series that it belongs to: the one under way, or a new one. */
export interface SeriesStep {
  readonly series: Series;
  /** Who plays the next run on which side, where sides are swapped. */
  readonly sides?: readonly { readonly player: PlayerId; readonly side: SideName }[];
}

export function seriesAfter(room: Room, outcome: Outcome): SeriesStep | undefined {
  const rules = room.policy.series;
  if (rules == null) return undefined;
  const before = room.series === null || room.series.over ? FRESH : room.series;
  const winner = winnerOf(room, outcome, before.swaps);
  const wins = winner === undefined ? before.wins : plus(before.wins, winner, 1);
  const played = before.played + 1;
  const isDecided = Math.max(0, ...Object.values(wins)) > rules.bestOf / 2;
  const over = isDecided || played >= rules.bestOf;
  const totals = outcome.standings.reduce((sum, { player, score }) => plus(sum, player, score), before.totals);
  const names = room.policy.sides?.names ?? [];
  const swaps = !over && rules.swapSides && names.length > 1;
  const series = { played, wins, totals, over, swaps: over ? before.swaps : before.swaps + Number(swaps) };
  return { series, ...(swaps && { sides: swapped(room, names) }) };
}

const plus = (record: Readonly<Record<string, number>>, key: string, more: number) => ({
  ...record,
  [key]: (record[key] ?? 0) + more,
});

/** Everybody goes on to the next side. */
function swapped(room: Room, names: readonly SideName[]) {
  return [...room.members.values()].flatMap(({ id, side }) => {
    const next = side === null ? undefined : names[(names.indexOf(side) + 1) % names.length];
    return next === undefined ? [] : [{ player: id, side: next }];
  });
}

/** The one that won a run alone: a team where the room has sides, named by the side on which it began, else a player. */
function winnerOf(room: Room, outcome: Outcome, swaps: number): string | undefined {
  const names = room.policy.sides?.names ?? [];
  const scored = names.length === 0 ? playersScored(outcome) : sidesScored(room, outcome);
  const [first, second] = rank(scored);
  if (first === undefined || second?.rank === 1) return undefined;
  return names.length === 0 ? first.of : teamOf(names, first.of, swaps);
}

const playersScored = ({ standings }: Outcome) => standings.map(({ player, score }) => ({ of: player, score }));

/** What was said of the sides, or what their players have scored together. */
function sidesScored(room: Room, { sides, standings }: Outcome) {
  if (sides) return sides.map(({ side, score }) => ({ of: side, score }));
  const sums = standings.reduce<Record<string, number>>((sum, { player, score }) => {
    const side = room.members.get(player)?.side;
    return side == null ? sum : plus(sum, side, score);
  }, {});
  return Object.entries(sums).map(([of, score]) => ({ of, score }));
}

/** The side on which those began who stand on `side` after so many swaps. */
function teamOf(names: readonly SideName[], side: SideName, swaps: number): SideName {
  const shift = swaps % names.length;
  return names[(names.indexOf(side) - shift + names.length) % names.length] ?? side;
}

/** A series as members see it: sides by the names under which their players stand now. */
export function seriesView({ policy, series }: Pick<Room, "policy" | "series">): SeriesView | undefined {
  const rules = policy.series;
  if (rules == null || series === null) return undefined;
  const names = policy.sides?.names ?? [];
  const { played, wins, totals, over, swaps } = series;
  const won = rank(Object.entries(wins).map(([of, score]) => ({ of, score }))).map(({ of, ...row }) =>
    names.length === 0 ? { player: of, ...row } : { side: standsOn(names, of, swaps), ...row },
  );
  const summed = rank(Object.entries(totals).map(([of, score]) => ({ of, score })));
  return {
    played,
    bestOf: rules.bestOf,
    over,
    wins: won.map(({ score, ...row }) => ({ ...row, wins: score })),
    totals: summed.map(({ of: player, ...row }) => ({ player, ...row })),
  };
}

const standsOn = (names: readonly SideName[], team: SideName, swaps: number): SideName =>
  names[(names.indexOf(team) + swaps) % names.length] ?? team;

/** The number of the run that is next, or under way; undefined where there is no series. */
export function seriesRun(policy: RoomPolicy, series: Series | null) {
  if (policy.series == null) return undefined;
  const number = series === null || series.over ? 1 : series.played + 1;
  return { number, bestOf: policy.series.bestOf };
}
