import type { HarborRules } from "@yellow-harbor/core";
import { Config, loadRuntime } from "@yellow-harbor/service";

import { KINDS } from "./acts.ts";

const { rulesOf } = await loadRuntime();

const crews = {
  capacity: { max: 6, default: 3 },
  levels: ["brine-gate", "gull-flats"],
  graceMs: 10_000,
};

const pairs = {
  lobby: "quayside",
  roomKind: "matched",
  searchMs: 60_000,
  passEveryMs: 500,
  sides: { count: 2, max: 1 },
  party: { max: 1 },
  closeness: [
    {
      attribute: "skill",
      gap: [
        [0, 20],
        [10, 60],
      ],
    },
  ],
};

/** A small harbor with a room kind for each way of going about things, and little room for instances. */
export const simRules = (): HarborRules =>
  rulesOf(
    Config.parse({
      harbor: "simulated",
      players: { builds: ["game-1"], limit: 40, graceMs: 5_000 },
      lobbies: {
        quayside: {
          title: "Quayside",
          roomKinds: [...KINDS],
          namesUpTo: 6,
        },
      },
      roomKinds: {
        crews,
        counted: { ...crews, countdownMs: 3_000 },
        eager: { ...crews, countdownMs: 3_000, autoStart: true },
        sided: {
          ...crews,
          sides: { names: ["north", "south"], max: 2, apart: 1 },
          clearsReady: ["level", "settings", "sides", "members"],
          resultsMs: 4_000,
        },
        "open-house": {
          ...crews,
          lateJoining: "open",
          spectators: { max: 3 },
          readiness: "here",
          emptyMs: 3_000,
          hostGraceMs: 2_000,
          nextHost: "lowest-latency",
          starters: "anyone",
          resultBy: "host",
          resultsMs: 4_000,
        },
        hosted: {
          ...crews,
          destinations: ["player-hosted", "relayed"],
          stragglers: "drop",
          lateJoining: "open",
          spectators: { max: 3 },
          resultBy: "host",
        },
        relayed: {
          ...crews,
          destinations: ["relayed"],
          stragglers: "go-without",
          lateJoining: "open",
          spectators: { max: 3 },
          resultBy: "host",
        },
        anywhere: {
          ...crews,
          destinations: ["dedicated", "player-hosted", "relayed"],
          stragglers: "go-without",
          onLoss: "move",
          levelBy: "rotation",
          levels: ["brine-gate", "far-sound", "gull-flats"],
          resultsMs: 4_000,
        },
        voting: { ...crews, levelBy: "vote", stragglers: "drop", resultBy: "host", destinations: ["relayed"] },
        matched: {
          ...crews,
          sides: { names: ["north", "south"], max: 2 },
          lateJoining: "backfill",
          destinations: ["dedicated", "relayed"],
          resultBy: "host",
        },
        "host-bound": { ...crews, hostGoes: "close", readiness: "none", resultBy: "operator" },
      },
      levels: {
        "brine-gate": { title: "Brine Gate", players: { min: 2, max: 6 }, pool: "sluice" },
        "gull-flats": { title: "Gull Flats", players: { min: 2, max: 3 }, pool: "sluice" },
        "far-sound": {
          title: "Far Sound",
          players: { min: 2, max: 6 },
          pool: "weir",
          spread: { shape: "grid", gap: 2 },
        },
      },
      builds: { breakwater: { command: "none" } },
      pools: {
        sluice: {
          build: "breakwater",
          ports: { from: 7500, to: 7504 },
          max: 4,
          bootMs: 20_000,
          silenceMs: 15_000,
          stopMs: 3_000,
          portRestMs: 5_000,
          forgetMs: 10_000,
        },
        weir: {
          build: "breakwater",
          ports: { from: 7510, to: 7514 },
          max: 3,
          bootMs: 20_000,
          silenceMs: 15_000,
          // Kept ready, and handed from room to room.
          plan: { min: 1, spare: 1, cooldownMs: 8_000 },
          reuse: "any",
          stopMs: 3_000,
          portRestMs: 5_000,
          forgetMs: 10_000,
        },
      },
      queues: {
        // Of the same players, so that what one makes of them the other has not any more.
        pairs: { ...pairs, title: "Pairs", whenLeft: "backfill" },
        "confirming-pairs": {
          ...pairs,
          title: "Asked pairs",
          whenLeft: "backfill",
          confirm: { withinMs: 10_000, pausesMs: [2_000, 10_000] },
        },
        "ended-pairs": { ...pairs, title: "Ended pairs", whenLeft: "end" },
      },
      travel: { prepareMs: 40_000, boardMs: 30_000, attempts: 2 },
    }),
    [1, 2, 3, 4],
  );

type Change = (rules: HarborRules) => Partial<HarborRules>;

const mapped = <T>(map: ReadonlyMap<string, T>, change: (value: T) => T): ReadonlyMap<string, T> =>
  new Map([...map].map(([name, value]) => [name, change(value)]));
const without = <T>(map: ReadonlyMap<string, T>, name: string): ReadonlyMap<string, T> =>
  new Map([...map].filter(([one]) => one !== name));

/** Other configurations that the same players may come to live by, from one moment to the next. */
const changes: readonly Change[] = [
  ({ levels, queues, roomKinds }) => ({
    levels: without(levels, "gull-flats"),
    queues: without(queues, "ended-pairs"),
    roomKinds: without(roomKinds, "voting"),
  }),
  ({ pools, roomKinds }) => ({
    pools: mapped(pools, (pool) => ({ ...pool, max: 1, plan: null })),
    // Rooms of queues are of two: a configuration in which these are too few to play is refused.
    roomKinds: new Map(
      [...roomKinds].map(([id, kind]) => {
        const minPlayers = id.startsWith("matched") ? kind.minPlayers : 3;
        return [id, { ...kind, minPlayers, graceMs: 2_000 }] as const;
      }),
    ),
  }),
  ({ lobbies, players, pools, travel }) => ({
    lobbies: mapped(lobbies, (lobby) => ({ ...lobby, namesUpTo: 2, title: "Long Quay" })),
    players: { ...players, limit: 6, graceMs: 1_000 },
    pools: mapped(pools, (pool) => ({ ...pool, silenceMs: 4_000, forgetMs: 2_000 })),
    travel: { ...travel, attempts: 1, boardMs: 5_000 },
  }),
];

export function otherRules(which: number): HarborRules {
  const rules = simRules();
  // Half of the time those of the beginning, by which there is the most to do.
  return which % 2 === 0 ? rules : { ...rules, ...changes[(which >> 1) % changes.length]?.(rules) };
}
