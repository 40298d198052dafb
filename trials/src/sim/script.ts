import { type Random, randomFrom } from "@yellow-harbor/core";

/** What is done to or by a simulated process of an instance. */
export type MachineMove =
  | ("announce" | "probe" | "poll" | "board" | "unboard" | "report" | "goodbye" | "exit")
  | ("crash" | "hang" | "silent");

/** What somebody who searches does. */
export type SearchMove = "search" | "accept" | "accord" | "decline" | "cancel" | "fill" | "no-fill" | "leave";

/**
 * One step of a simulation. Numbers choose among what there is when the step comes, so that a script still means
 * something after others of its steps were left out.
 */
export type Step =
  /** A player connects: anew, or to resume. */
  | { readonly do: "connect"; readonly who: number }
  /** A player sends a request. */
  | { readonly do: "act"; readonly who: number; readonly act: number; readonly n: number; readonly m: number }
  /** A player searches, answers, or stops; or all who are asked about its match accept it. */
  | { readonly do: "search"; readonly who: number; readonly what: SearchMove; readonly n: number }
  /** So many frames of a player arrive, up at the service or down at the player. */
  | { readonly do: "up" | "down"; readonly who: number; readonly frames: number }
  /** A player's wire is cut; what was on it is lost. The service notices at once, or by silence later. */
  | { readonly do: "cut"; readonly who: number; readonly noticed: boolean }
  | { readonly do: "notice"; readonly who: number }
  /** The batch that is being written is kept; or is not, and fails; or is kept, and yet the write fails. */
  | { readonly do: "commit"; readonly how: "kept" | "failed" | "kept-but-failed" }
  /** From now on snapshots can be written, or not. */
  | { readonly do: "snapshots"; readonly work: boolean }
  | { readonly do: "tick"; readonly ms: number }
  /** Somebody sets the computer's clock. */
  | { readonly do: "set-clock"; readonly byMs: number }
  /** The service is killed; the batch under way was kept, or was not. */
  | { readonly do: "kill"; readonly inFlight: "kept" | "lost" }
  | { readonly do: "start" }
  | { readonly do: "machine"; readonly which: number; readonly what: MachineMove; readonly n: number }
  | { readonly do: "operator"; readonly what: number; readonly n: number; readonly m: number }
  /** An administrator applies another configuration. */
  | { readonly do: "rules"; readonly which: number }
  /** The network and the disk catch up: all that is under way arrives. */
  | { readonly do: "flow" }
  /** The whole of a room gets ready and starts. */
  | { readonly do: "muster"; readonly which: number }
  /** An instance does what it has to do next, and its players with it. */
  | { readonly do: "onward"; readonly which: number };

const machineMoves: readonly MachineMove[] = [
  ...(["announce", "announce", "probe", "probe", "poll", "poll", "poll", "board", "board", "unboard"] as const),
  ...(["report", "report", "goodbye", "exit", "crash", "hang", "silent"] as const),
];

const searchMoves: readonly SearchMove[] = [
  ...(["search", "search", "search", "search", "search", "accord", "accord", "accept", "accept"] as const),
  ...(["decline", "cancel", "fill", "no-fill", "leave", "leave"] as const),
];

const pick = <T>(chance: Random, list: readonly T[]): T => list[chance.below(list.length)] as T;

/** How often each step comes, and how it is drawn. */
const kinds: readonly (readonly [weight: number, draw: (chance: Random) => Step])[] = [
  [14, (chance) => ({ do: "connect", who: chance.below(64) })],
  [
    40,
    (chance) => ({
      do: "act",
      who: chance.below(64),
      act: chance.below(1_000),
      n: chance.below(64),
      m: chance.below(64),
    }),
  ],
  [14, (chance) => ({ do: "up", who: chance.below(64), frames: 1 + chance.below(4) })],
  [14, (chance) => ({ do: "down", who: chance.below(64), frames: 1 + chance.below(6) })],
  [1.5, (chance) => ({ do: "cut", who: chance.below(64), noticed: chance.below(3) > 0 })],
  [1.5, (chance) => ({ do: "notice", who: chance.below(64) })],
  [25, () => ({ do: "commit", how: "kept" })],
  [0.1, (chance) => ({ do: "commit", how: pick(chance, ["failed", "kept-but-failed"]) })],
  [0.2, (chance) => ({ do: "snapshots", work: chance.below(2) === 0 })],
  [4, (chance) => ({ do: "tick", ms: 10 ** chance.below(5) + chance.below(2_000) })],
  [0.2, (chance) => ({ do: "set-clock", byMs: (chance.below(2) === 0 ? 1 : -1) * 10 ** (1 + chance.below(8)) })],
  [0.1, (chance) => ({ do: "rules", which: chance.below(64) })],
  [0.15, (chance) => ({ do: "kill", inFlight: pick(chance, ["kept", "lost"]) })],
  [2, () => ({ do: "start" })],
  [8, (chance) => ({ do: "machine", which: chance.below(64), what: pick(chance, machineMoves), n: chance.below(64) })],
  [0.6, (chance) => ({ do: "operator", what: chance.below(1_000), n: chance.below(64), m: chance.below(64) })],
  [8, (chance) => ({ do: "search", who: chance.below(64), what: pick(chance, searchMoves), n: chance.below(60) })],
  [6, () => ({ do: "flow" })],
  [2.5, (chance) => ({ do: "muster", which: chance.below(64) })],
  [18, (chance) => ({ do: "onward", which: chance.below(64) })],
];
const RESOLUTION = 20;
const drawn = kinds.flatMap(([weight, draw]) => Array<(chance: Random) => Step>(weight * RESOLUTION).fill(draw));

/** The steps of a seed: the same ones each time, and the first `count` of them however many are asked for. */
export function* scriptOf(seed: number, count: number): Generator<Step> {
  const chance = randomFrom([seed, 0x9e37_79b9, 0x243f_6a88, 1]);
  // The first numbers of neighbouring seeds are alike.
  for (let n = 0; n < 20; n++) chance.below(2);
  for (let n = 0; n < count; n++) yield pick(chance, drawn)(chance);
}
