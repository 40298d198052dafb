import type { Instruction } from "@yellow-harbor/protocol";
import type { Berth } from "../model/berth.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { matchOfRun, matchWith } from "../model/pools/holds.ts";
import type { Instance, InstanceMatch, MatchChange } from "../model/pools/state.ts";

type Of<K extends PoolEvent["kind"]> = Extract<PoolEvent, { kind: K }>;

export function assign(instance: Instance, { number, match, passes }: Of<"instance.assigned">): void {
  const { room, run, level, players, host, settings } = match;
  const berths: InstanceMatch["berths"] = new Map();
  for (const { id: player, name, place } of players) {
    berths.set(player, { player, name, place, pass: passes[player] ?? "", ...FRESH });
  }
  const told: InstanceMatch["told"] = {
    ...(host !== undefined && { host }),
    ...(settings && { settings }),
    players: new Map(players.map((player) => [player.id, player])),
  };
  instance.holds.set(room, { room, run, level, instruction: number, berths, told, scores: new Map() });
  instance.differences.clear();
  give(instance, { number, instruction: "match-assigned", match });
}

/** One that knows nothing of us never takes an instruction: none is kept for it. */
export function give(instance: Instance, instruction: Instruction): void {
  if (!instance.isWatched) instance.instructions = [...instance.instructions, instruction];
  instance.instructionsGiven = instruction.number;
}

export function acknowledge(instance: Instance, acknowledged: number): void {
  instance.instructionsAcknowledged = acknowledged;
  instance.instructions = instance.instructions.filter((instruction) => instruction.number > acknowledged);
}

/** So many runs are remembered, to tell a repeated report from one of a run that was never here. */
const RUNS_REMEMBERED = 16;

export function endMatch(instance: Instance, run: string): void {
  const match = matchOfRun(instance, run);
  if (match) {
    instance.holds.set(match.room, null);
    // Who was in it is of no account to the next: its count begins anew.
    for (const player of match.berths.keys()) instance.differences.delete(player);
  }
  instance.lastRuns = [...instance.lastRuns, run].slice(-RUNS_REMEMBERED);
  instance.played += 1;
}

const FRESH = { state: "reserved", attempt: null, expiresAtMs: null } as const;

export function addBerth(instance: Instance, event: Of<"instance.berth-added">): void {
  const { number, run, player, pass, expiresAtMs, spectator } = event;
  const { id, name, place } = player;
  const match = matchOfRun(instance, run);
  const looksOn = spectator !== undefined && { spectator: true as const };
  match?.berths.set(id, { player: id, name, place, pass, ...FRESH, expiresAtMs, ...looksOn });
  if (spectator) return give(instance, { number, instruction: "expect-spectator", run, player, ...spectator });
  if (match) noteTold(match, { players: [player] });
  give(instance, { number, instruction: "expect-player", run, player });
}

export function changeMatch(instance: Instance, { number, run, changed }: Of<"instance.match-changed">): void {
  const match = matchOfRun(instance, run);
  if (match) noteTold(match, changed);
  give(instance, { number, instruction: "match-changed", run, ...writable(changed) });
}

const writable = ({ players, ...others }: MatchChange) => ({ ...others, ...(players && { players: [...players] }) });

/** Keeps what the instance has been told of its match. */
function noteTold(match: InstanceMatch, { players = [], ...others }: MatchChange): void {
  if (match.told === undefined) return;
  const all = new Map(match.told.players);
  for (const player of players) all.set(player.id, player);
  match.told = { ...match.told, ...others, players: all };
}

export function leaveBerth(instance: Instance, { player, number, run, kick }: Of<"instance.unboarded">): void {
  setBerth(instance, run, player, { state: "left", ...(kick && { kicked: true }) });
  instance.differences.delete(player);
  if (number === undefined || run === undefined) return;
  give(instance, { number, instruction: "release-player", run, player });
}

export function setBerth(
  instance: Instance,
  run: string | undefined,
  player: string,
  change: Partial<Pick<Berth, "state" | "attempt" | "kicked">>,
): void {
  const match = run === undefined ? matchWith(instance, player) : matchOfRun(instance, run);
  const berth = match?.berths.get(player);
  if (berth === undefined) return;
  berth.state = change.state ?? berth.state;
  if (change.kicked) berth.kicked = true;
  if (change.attempt !== undefined) berth.attempt = change.attempt;
}
