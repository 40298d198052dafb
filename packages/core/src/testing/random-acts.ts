import type { Command } from "../model/command.ts";
import { runOf } from "../model/find-room.ts";
import type { TestHarbor } from "./test-harbor.ts";

export type Arranging =
  | (
      | "take"
      | "side"
      | "swap"
      | "balance"
      | "turn"
      | "pass"
      | "end-turns"
      | "settings"
      | "join-or-open"
      | "result"
      | "again"
    )
  | ("gather" | "measure" | "unban" | "operator-ban" | "operator-result");

export type Travelling =
  | "progress"
  | "arrive"
  | "offer"
  | "probed"
  | "board"
  | "pass"
  | "setBackground"
  | "silent"
  | "vote"
  | Rarely;
type Rarely = "decline" | "trouble" | "abort" | "operator-abort";

export type Governing = "change" | "hand-over" | "kick" | "ban" | "dissolve" | "operator";

/** Somebody on its way, or asked to run the world, says something of it. */
export function travel(test: TestHarbor, player: string, { how, size }: { how: Travelling; size: number }): void {
  const { rooms, travels, players } = test.harbor.state;
  const room = rooms.byId.get(players.byId.get(player)?.room ?? "");
  const run = runOf(room) ?? "u_none";
  const { hosting } = travels.byRun.get(run) ?? {};
  const host = hosting?.player ?? player;
  const world = travels.worlds.get(room?.id ?? "");
  const joining = [...(world?.berths.values() ?? [])].find((berth) => berth.state === "reserved");
  const shown = { player: joining?.player ?? player, pass: joining?.pass ?? "b_none", run, level: world?.level ?? "" };
  const address = { host: "127.0.0.1", port: 8_000 + size };
  const probed = (hosting?.offered ?? [address]).map((one) => {
    return { address: one, reached: [true, false, null, true][size % 4] ?? true, detail: "looked at" };
  });
  const commands: Record<Travelling, Command> = {
    progress: { do: "travel.progress", player, args: { run, percent: size * 8 } },
    arrive: { do: "travel.arrive", player, args: { run } },
    offer: { do: "travel.offer", player: host, args: { run, addresses: [address] } },
    probed: { do: "travel.world-probed", run, player: host, probed },
    board: { do: "travel.board", player: world?.player ?? player, args: { shown } },
    pass: { do: "travel.pass", player, args: { run } },
    setBackground: { do: "room.set-background", player, args: { background: size % 2 === 0 } },
    silent: { do: "room.mark-silent", player, silent: size % 2 === 0 },
    vote: { do: "room.vote", player, args: { level: size % 2 === 0 ? "brine-gate" : "gull-flats" } },
    // Rare, or no travel would come to its end.
    decline:
      size > 4
        ? { do: "travel.arrive", player, args: { run } }
        : { do: "travel.decline", player: host, args: { run, reason: "no" } },
    trouble:
      size > 4
        ? { do: "travel.arrive", player, args: { run } }
        : { do: "travel.trouble", player, args: { run, reason: "no" } },
    abort:
      size > 1
        ? { do: "travel.arrive", player, args: { run } }
        : { do: "travel.abort", player: room?.host ?? player, args: { run } },
    "operator-abort":
      size > 0
        ? { do: "travel.arrive", player, args: { run } }
        : { do: "travel.operator-abort", room: room?.id ?? "r_none", reason: undefined },
  };
  test.run(commands[how]);
}

/** What hosts and operators do to others. */
export function govern(
  test: TestHarbor,
  player: string,
  whom: string,
  { power, size }: { power: Governing; size: number },
): void {
  const room = test.harbor.state.players.byId.get(player)?.room ?? "r_none";
  const visibility = (["listed", "code-only", "locked"] as const)[size % 3];
  const commands: Record<typeof power, Command> = {
    change: { do: "room.change", player, args: { capacity: size, visibility, name: `Room ${size}` } },
    "hand-over": { do: "room.hand-over", player, args: { to: whom } },
    kick: { do: "room.kick", player, args: { player: whom, reason: "too loud", ban: false } },
    ban: { do: "room.kick", player, args: { player: whom, ban: true } },
    // Rare, or no room would live long enough for anything else.
    dissolve:
      size === 0
        ? { do: "room.dissolve", room, reason: "maintenance", by: "operator" }
        : { do: "room.operator-hand-over", room, to: whom },
    operator:
      size === 0
        ? { do: "player.kick", player: whom, reason: undefined }
        : { do: "room.operator-kick", room, player: whom, reason: undefined, ban: false },
  };
  test.run(commands[power]);
}

/** What members do among themselves, and with the run. */
export function arrange(
  test: TestHarbor,
  player: string,
  whom: string,
  { how, size }: { how: Arranging; size: number },
): void {
  const { state } = test.harbor;
  const room = state.players.byId.get(player)?.room ?? "r_none";
  const members = [...(state.rooms.byId.get(room)?.members.keys() ?? [])];
  const host = state.rooms.byId.get(room)?.host ?? player;
  // Who is banned is rarely hit by chance.
  const [banned = whom] = state.rooms.byId.get(room)?.banned.keys() ?? [];
  const scores = members.map((one, n) => ({ player: one, score: n % 2 }));
  const latency = { latencyMs: size * 10, jitterMs: 1 };
  const commands: Record<Arranging, Command> = {
    take: { do: "room.move-to", player, args: { place: size } },
    side: { do: "room.move-to", player, args: { side: size % 2 === 0 ? "north" : "south" } },
    swap: { do: "room.swap", player, args: { with: whom } },
    balance: { do: "room.balance", player: host, args: {} },
    turn: { do: "room.pass-turn", player, args: { limitMs: 2_000 } },
    pass: { do: "room.pass-turn", player, args: {} },
    "end-turns": { do: "room.end-turns", player, args: {} },
    settings: { do: "room.change", player, args: { settings: { [`key${size % 3}`]: size === 0 ? null : size } } },
    "join-or-open": { do: "room.join-or-open", player, args: { name: `Room ${size % 2}`, move: size > 3 } },
    result: { do: "room.set-result", player: host, args: { standings: scores } },
    again: { do: "room.again", player, args: {} },
    gather: { do: "room.gather", player, args: {} },
    measure: { do: "player.measure", player, latency },
    unban: { do: "room.unban", player: host, args: { player: banned } },
    "operator-ban":
      size < 2
        ? { do: "room.operator-ban", room, player: whom, reason: undefined }
        : { do: "room.operator-unban", room, player: banned },
    "operator-result": { do: "room.operator-set-result", room, standings: scores, note: undefined },
  };
  // Rare by chance alone: two who want the same change, and sides that are uneven.
  if (how === "swap" && size > 2) test.run({ do: "room.swap", player: whom, args: { with: player } });
  if (how === "balance")
    for (const one of members) test.run({ do: "room.move-to", player: one, args: { side: "north" } });
  test.ask(player, commands[how]);
}

/** A room that goes where no instance is comes one step further on its way, with the members who are here. */
export function travelOn(test: TestHarbor, which: number): void {
  const { rooms, travels, players } = test.harbor.state;
  const all = [...rooms.byId.values()].filter((room) => runOf(room) !== null);
  const room = all[which % Math.max(1, all.length)];
  const run = runOf(room);
  if (room === undefined || run === null) return;
  const { id } = room;
  const isHere = (player: string) => players.byId.get(player)?.presence === "here";
  const travel = travels.byRun.get(run);
  const by = travel?.options[travel.option];
  const world = travels.worlds.get(id);
  const joining = [...(world?.berths.values() ?? [])].find(
    ({ player, state }) => state === "reserved" && isHere(player),
  );
  const address = { host: "127.0.0.1", port: 8_001 };
  if (by === "relayed" && travel?.step === "boarding") {
    const player = [...travel.travellers.values()].find((one) => !one.arrived && isHere(one.id))?.id;
    if (player) test.run({ do: "travel.arrive", player, args: { run } });
  } else if (by === "player-hosted" && travel?.step === "preparing" && travel.hosting) {
    const { player, offered } = travel.hosting;
    if (offered === null) test.run({ do: "travel.offer", player, args: { run, addresses: [address] } });
    else {
      const probed = offered.map((one) => ({ address: one, reached: true, detail: "answers" }));
      test.run({ do: "travel.world-probed", run, player, probed });
    }
  } else if (world && joining) {
    const shown = { player: joining.player, pass: joining.pass, run, level: world.level };
    test.run({ do: "travel.board", player: world.player, args: { shown } });
  } else if (world) {
    // Somebody's game has crashed: it wants in once more.
    const player = [...room.members.keys()].find((one) => one !== world.player && isHere(one));
    if (player) test.run({ do: "travel.pass", player, args: { run } });
  }
}
