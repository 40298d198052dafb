import { type Command, runOf } from "@yellow-harbor/core";
import type { Shadow } from "./shadow.ts";
import type { Asking, SimPlayer } from "./sim-player.ts";

/** What a request is made from: who asks, whom else it may be about, a room there is, and a number. */
export interface Occasion {
  readonly player: string;
  readonly whom: string;
  readonly room: string;
  /** The run of the room that the player is in. */
  readonly run: string;
  /** Code of a party that there is. */
  readonly party: string;
  readonly n: number;
}

export const KINDS = [
  ...(["crews", "counted", "eager", "sided", "open-house", "host-bound"] as const),
  ...(["hosted", "relayed", "anywhere", "voting"] as const),
];
const LEVELS = ["brine-gate", "gull-flats"] as const;

/** What players ask for, each as often as it stands here. */
const acts: readonly ((of: Occasion) => Asking)[] = [
  ({ player, n }) => ({ do: "room.open", player, args: { capacity: 2 + (n % 3), kind: KINDS[n % KINDS.length] } }),
  ...Array<(of: Occasion) => Asking>(4).fill(({ player, room, n }) => ({
    do: "room.join",
    player,
    args: { room, move: n % 8 === 0 },
  })),
  ...Array<(of: Occasion) => Asking>(3).fill(({ player, n }) => ({
    do: "room.ready",
    player,
    args: { ready: n % 5 > 0 },
  })),
  ({ player }) => ({ do: "room.quick-join", player, args: {} }),
  ({ player, n }) => ({ do: "room.join-or-open", player, args: { name: `Room ${n % 2}`, move: n % 4 === 0 } }),
  ({ player, n }) => ({ do: "room.pick-level", player, args: { level: LEVELS[n % 2] ?? "brine-gate" } }),
  ({ player, n }) => ({ do: "room.change", player, args: { settings: { [`key${n % 3}`]: n % 7 === 0 ? null : n } } }),
  ({ player, n }) => ({
    do: "room.change",
    player,
    args: { capacity: 1 + (n % 5), visibility: (["listed", "listed", "code-only", "locked"] as const)[n % 4] },
  }),
  ({ player, whom }) => ({ do: "room.hand-over", player, args: { to: whom } }),
  ({ player, n }) => ({
    do: "room.move-to",
    player,
    args: n % 2 ? { place: n % 5 } : { side: n % 4 ? "north" : "south" },
  }),
  ({ player, whom }) => ({ do: "room.swap", player, args: { with: whom } }),
  ({ player }) => ({ do: "room.balance", player, args: {} }),
  ({ player, n }) => ({ do: "room.pass-turn", player, args: n % 3 ? {} : { limitMs: 2_000 } }),
  ({ player }) => ({ do: "room.end-turns", player, args: {} }),
  ({ player, n }) => ({ do: "board.set", player, args: { key: `key.${n % 4}`, value: n } }),
  ({ player, n }) => ({ do: "board.remove", player, args: { key: `key.${n % 4}` } }),
  ({ player }) => ({ do: "room.start", player, args: {} }),
  ({ player }) => ({ do: "room.stop-count", player, args: {} }),
  ({ player, whom, n }) => ({ do: "room.set-result", player, args: { standings: [{ player: whom, score: n }] } }),
  ({ player, n }) => ({ do: "room.again", player, args: n % 3 ? {} : { level: LEVELS[n % 2] } }),
  ({ player, n }) => ({ do: "room.vote", player, args: { level: LEVELS[n % 2] ?? "brine-gate" } }),
  ({ player, n }) => ({ do: "room.set-background", player, args: { background: n % 3 === 0 } }),
  ({ player, n }) => ({ do: "room.mark-silent", player, silent: n % 3 === 0 }),
  ({ player, run, n }) => ({ do: "travel.progress", player, args: { run, percent: (n * 7) % 101 } }),
  ({ player, run }) => ({ do: "travel.arrive", player, args: { run } }),
  ({ player, run }) => ({ do: "travel.pass", player, args: { run } }),
  ({ player, run, n }) => ({
    do: "travel.offer",
    player,
    args: { run, addresses: [{ host: "127.0.0.1", port: 8_000 + n }] },
  }),
  ({ player, whom }) => ({ do: "room.invite", player, args: { player: whom } }),
  ({ player, room }) => ({ do: "room.decline", player, args: { room } }),
  ({ player, n }) => ({ do: "room.mute-invites", player, args: { muted: n % 5 === 0 } }),
  ({ player }) => ({ do: "room.gather", player, args: {} }),
  ({ player, room, n }) => ({ do: "room.watch", player, args: { room, move: n % 2 === 0 } }),
  ({ player }) => ({ do: "party.open", player, args: {} }),
  ...Array<(of: Occasion) => Asking>(2).fill(({ player, party }) => ({
    do: "party.join",
    player,
    args: { code: party },
  })),
  ({ player, whom }) => ({ do: "party.invite", player, args: { player: whom } }),
  ({ player, n }) => ({ do: "party.set", player, args: { follows: n % 4 > 0 } }),
  ({ player }) => ({ do: "party.bring", player, args: {} }),
  ({ player }) => ({ do: "party.leave", player, args: {} }),
  ({ player, whom, n }) => ({ do: n % 2 ? "blocks.add" : "blocks.remove", player, args: { player: whom } }),
  ({ player, n }) => ({ do: "friends.hide", player, args: { hidden: n % 3 === 0 } }),
  ({ player, whom, n }) => ({ do: "room.tell-latencies", player, args: { latencyMs: { [whom]: n } } }),
  ({ player, whom, n }) => ({
    do: "private.set",
    player,
    args: { key: `own.${n % 3}`, value: n, to: n % 2 ? { player: whom } : { side: "north" } },
  }),
  ({ player, n }) => ({ do: "private.remove", player, args: { key: `own.${n % 3}` } }),
  ({ player }) => ({ do: "room.leave", player, args: {} }),
  ({ player, n }) => ({ do: "player.measure", player, latency: { latencyMs: n * 3, jitterMs: n % 5 } }),
];

/** Rare, or nobody would stay together for long. */
const rare: readonly ((of: Occasion) => Asking)[] = [
  ({ player, run }) => ({ do: "travel.abort", player, args: { run } }),
  ({ player, run }) => ({ do: "travel.decline", player, args: { run, reason: "no room" } }),
  ({ player, run }) => ({ do: "travel.trouble", player, args: { run, reason: "no answer" } }),
  ({ player, whom, n }) => ({ do: "room.kick", player, args: { player: whom, ban: n % 3 === 0 } }),
  ({ player, whom }) => ({ do: "party.hand-over", player, args: { to: whom } }),
  ({ player, whom }) => ({ do: "party.kick", player, args: { player: whom } }),
  ({ player, whom }) => ({ do: "room.unban", player, args: { player: whom } }),
  ({ player }) => ({ do: "player.leave", player }),
];

const operatorActs: readonly ((of: Occasion) => Command)[] = [
  ({ room, whom }) => ({ do: "room.operator-hand-over", room, to: whom }),
  ({ room, whom, n }) => ({ do: "room.operator-kick", room, player: whom, reason: undefined, ban: n % 4 === 0 }),
  ({ room, whom }) => ({ do: "room.operator-ban", room, player: whom, reason: "too loud" }),
  ({ room, whom }) => ({ do: "room.operator-unban", room, player: whom }),
  ({ room, whom, n }) => ({
    do: "room.operator-set-result",
    room,
    standings: [{ player: whom, score: n }],
  }),
  ({ n }) => ({
    do: "room.operator-open",
    wish: { lobby: "quayside", capacity: 2 + (n % 3), keepMs: 1_000 + n * 20 },
    request: n % 3 === 0 ? { key: `request ${n}`, fingerprint: "one" } : undefined,
  }),
  ({ room, whom, n }) => ({
    do: "room.operator-reserve",
    room,
    place: { for: { player: whom }, forMs: 1_000 + n * 200 },
  }),
  ({ room, whom }) => ({ do: "room.operator-cancel", room, for: { player: whom } }),
  ({ room, whom }) => ({ do: "room.operator-put", room, player: whom, side: undefined }),
  ({ room, whom, n }) => ({ do: "room.operator-ready", room, player: whom, ready: n % 4 > 0 }),
  ({ room }) => ({ do: "room.operator-start", room }),
  ({ room, n }) => ({ do: "room.operator-change", room, change: { settings: { [`key${n % 3}`]: n } } }),
  ({ room }) => ({ do: "room.operator-end", room, reason: "maintenance" }),
  ({ room }) => ({ do: "room.dissolve", room, reason: "maintenance", by: "operator" }),
  ({ room }) => ({ do: "travel.operator-abort", room, reason: "maintenance" }),
  ({ whom }) => ({ do: "player.kick", player: whom, reason: undefined }),
];

/** A player asks for something that makes sense sometimes. */
export function act(
  player: SimPlayer,
  others: readonly SimPlayer[],
  shadow: Shadow,
  step: { act: number; n: number; m: number },
): void {
  const { id } = player;
  if (id === undefined) return;
  // A third of all that is asked is a number to be found again.
  if (step.act % 3 === 0) return player.write();
  const occasion = occasionOf(id, others, shadow, step);
  const makers = step.act % 50 === 1 ? rare : acts;
  // Thirds are taken already: what is left of the number must not decide twice.
  const make = makers[Math.floor(step.act / 3) % makers.length] as (of: Occasion) => Asking;
  player.ask(make(occasion));
}

export function operatorAct(
  others: readonly SimPlayer[],
  shadow: Shadow,
  step: { what: number; n: number; m: number },
): Command {
  const make = operatorActs[step.what % operatorActs.length] as (of: Occasion) => Command;
  return make(occasionOf("p_none", others, shadow, step));
}

function occasionOf(
  player: string,
  others: readonly SimPlayer[],
  shadow: Shadow,
  { n, m }: { n: number; m: number },
): Occasion {
  const rooms = [...shadow.state.rooms.byId.keys()];
  const parties = [...shadow.state.parties.byCode.keys()];
  return {
    player,
    n,
    whom: others[m % others.length]?.id ?? player,
    room: rooms[n % Math.max(1, rooms.length)] ?? "r_none",
    party: parties[n % Math.max(1, parties.length)] ?? "CCCCCCCC",
    run: runOf(shadow.state.rooms.byId.get(shadow.state.players.byId.get(player)?.room ?? "")) ?? "u_none",
  };
}
