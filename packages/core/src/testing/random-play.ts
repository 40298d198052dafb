import fc from "fast-check";
import type { Command } from "../harbor/command.ts";
import type { TestHarbor } from "./test-harbor.ts";

const KINDS = ["crews", "counted", "eager", "sided", "open-house", "host-bound"] as const;

type Arranging =
  | ("take" | "side" | "swap" | "balance" | "baton" | "pass" | "take-baton" | "settings" | "enter" | "result" | "again")
  | ("gather" | "measure" | "unban" | "operator-ban" | "operator-result");

/** What a random player may do next. Numbers choose among the players, rooms and instances that there are. */
export type Move =
  | { do: "enter" }
  | { do: "open"; who: number; kind: number }
  | { do: "leave" | "start" | "lose" | "resume" | "goodbye" | "level" | "board" | "report"; who: number }
  | { do: "join"; who: number; room: number; move: boolean }
  | { do: "arrange"; who: number; whom: number; how: Arranging; size: number }
  | { do: "ready"; who: number; ready: boolean }
  | { do: "instance"; which: number; step: "spawned" | "announce" | "probed" | "take" | "exited" | "failed" }
  | {
      do: "govern";
      who: number;
      whom: number;
      power: "change" | "hand-over" | "put-out" | "ban" | "dissolve" | "operator";
      size: number;
    }
  | {
      do: "write";
      who: number;
      key: number;
      value: NonNullable<unknown> | null;
      onLeave: "remove" | "keep" | "host" | undefined;
      erase: boolean;
    }
  | { do: "seek"; who: number }
  /** The whole of a room gets ready and its host starts. */
  | { do: "muster"; room: number }
  /** An instance goes one step further on its way, and its players with it. */
  | { do: "onward"; which: number }
  | { do: "wait"; ms: number };

const who = fc.nat(9);
const move: fc.Arbitrary<Move> = fc.oneof(
  { weight: 2, arbitrary: fc.constant({ do: "enter" as const }) },
  {
    weight: 8,
    arbitrary: fc.record({
      do: fc.constantFrom("leave", "start", "lose", "resume", "goodbye", "level", "board", "report" as const),
      who,
    }) as fc.Arbitrary<Move>,
  },
  { weight: 2, arbitrary: fc.record({ do: fc.constant("open" as const), who, kind: fc.nat(KINDS.length - 1) }) },
  { weight: 5, arbitrary: fc.record({ do: fc.constant("join" as const), who, room: fc.nat(3), move: fc.boolean() }) },
  {
    weight: 8,
    arbitrary: fc.record({
      do: fc.constant("arrange" as const),
      who,
      whom: who,
      how: fc.constantFrom<Arranging[]>(
        ...(["take", "side", "swap", "swap", "balance", "baton", "pass", "pass", "take-baton", "settings"] as const),
        ...(["enter", "result", "result", "again", "gather", "measure", "unban", "operator-ban"] as const),
        "operator-result",
      ),
      size: fc.nat(6),
    }) as fc.Arbitrary<Move>,
  },
  { weight: 6, arbitrary: fc.record({ do: fc.constant("ready" as const), who, ready: fc.boolean() }) },
  {
    weight: 6,
    arbitrary: fc.record({
      do: fc.constant("instance" as const),
      which: fc.nat(2),
      step: fc.constantFrom(
        "spawned",
        "announce",
        "announce",
        "probed",
        "probed",
        "take",
        "take",
        "exited",
        "failed" as const,
      ),
    }) as fc.Arbitrary<Move>,
  },
  {
    weight: 5,
    arbitrary: fc.record({
      do: fc.constant("govern" as const),
      who,
      whom: who,
      power: fc.constantFrom("change", "hand-over", "put-out", "ban", "dissolve", "operator" as const),
      size: fc.nat(6),
    }) as fc.Arbitrary<Move>,
  },
  { weight: 4, arbitrary: fc.record({ do: fc.constant("seek" as const), who }) },
  {
    weight: 6,
    arbitrary: fc.record({
      do: fc.constant("write" as const),
      who,
      key: fc.nat(5),
      value: fc.jsonValue({ maxDepth: 3 }),
      onLeave: fc.constantFrom("remove", "keep", "host", undefined),
      erase: fc.boolean(),
    }) as fc.Arbitrary<Move>,
  },
  { weight: 4, arbitrary: fc.record({ do: fc.constant("muster" as const), room: fc.nat(3) }) },
  { weight: 12, arbitrary: fc.record({ do: fc.constant("onward" as const), which: fc.nat(2) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant("wait" as const), ms: fc.nat(15_000) }) },
);

/** Carries a move out as far as it makes sense in the state that there is. */
export function play(test: TestHarbor, players: string[], next: Move): void {
  if (next.do === "wait") return test.pass(next.ms);
  if (next.do === "enter") {
    if (players.length < 10) players.push(test.enter(`Player ${players.length}`));
    return;
  }
  if (next.do === "instance") return playInstance(test, next);
  if (next.do === "muster") return muster(test, next.room);
  if (next.do === "onward") return onward(test, next.which);
  const player = players[next.who % Math.max(1, players.length)];
  if (player === undefined) return;
  const { state } = test.harbor;
  const presence = state.players.byId.get(player)?.presence;
  if (next.do === "resume") return void (presence === "away" && test.resume(player));
  // Whoever is away or gone has no connection to ask by.
  if (presence !== "here") return;
  const rooms = [...state.rooms.byId.keys()];
  const asked = (command: Command) => void test.ask(player, command);
  switch (next.do) {
    case "open":
      return asked({
        do: "room.open",
        player,
        args: { capacity: 3, kind: KINDS[next.kind % KINDS.length] },
      });
    case "join":
      return asked({
        do: "room.join",
        player,
        args: { room: rooms[next.room % Math.max(1, rooms.length)] ?? "r_none", move: next.move },
      });
    case "leave":
      return asked({ do: "room.leave", player, args: {} });
    case "level":
      return asked({ do: "room.pick-level", player, args: { level: "brine-gate" } });
    case "ready":
      return asked({ do: "room.ready", player, args: { ready: next.ready } });
    case "start":
      return asked({ do: "room.start", player, args: {} });
    case "lose":
      return void test.run({ do: "player.lose", player, connection: 1 });
    case "seek":
      return asked({ do: "room.seek", player, args: {} });
    case "write": {
      const key = `key.${next.key}`;
      if (next.erase) return asked({ do: "room.erase", player, args: { key } });
      return asked({ do: "room.write", player, args: { key, value: next.value, onLeave: next.onLeave } });
    }
    case "govern":
      return govern(test, player, players[next.whom % players.length] ?? player, next);
    case "arrange":
      return arrange(test, player, players[next.whom % players.length] ?? player, next);
    case "goodbye":
      return void test.run({ do: "player.leave", player });
    case "board":
      return board(test, player);
    case "report":
      return report(test, player);
  }
}

function govern(
  test: TestHarbor,
  player: string,
  whom: string,
  { power, size }: Extract<Move, { do: "govern" }>,
): void {
  const room = test.harbor.state.players.byId.get(player)?.room ?? "r_none";
  const visibility = (["listed", "code-only", "locked"] as const)[size % 3];
  const commands: Record<typeof power, Command> = {
    change: { do: "room.change", player, args: { capacity: size, visibility, name: `Room ${size}` } },
    "hand-over": { do: "room.hand-over", player, args: { to: whom } },
    "put-out": { do: "room.put-out", player, args: { player: whom, reason: "too loud", ban: false } },
    ban: { do: "room.put-out", player, args: { player: whom, ban: true } },
    // Rare, or no room would live long enough for anything else.
    dissolve:
      size === 0
        ? { do: "room.dissolve", room, reason: "maintenance", by: "operator" }
        : { do: "room.operator-hand-over", room, to: whom },
    operator:
      size === 0
        ? { do: "player.put-out", player: whom, reason: undefined }
        : { do: "room.operator-put-out", room, player: whom, reason: undefined, ban: false },
  };
  test.run(commands[power]);
}

function arrange(
  test: TestHarbor,
  player: string,
  whom: string,
  { how, size }: Extract<Move, { do: "arrange" }>,
): void {
  const { state } = test.harbor;
  const room = state.players.byId.get(player)?.room ?? "r_none";
  const members = [...(state.rooms.byId.get(room)?.members.keys() ?? [])];
  const host = state.rooms.byId.get(room)?.host ?? player;
  const scores = members.map((one, n) => ({ player: one, score: n % 2 }));
  const latency = { latencyMs: size * 10, jitterMs: 1 };
  const commands: Record<Arranging, Command> = {
    take: { do: "room.take", player, args: { place: size } },
    side: { do: "room.take", player, args: { side: size % 2 === 0 ? "north" : "south" } },
    swap: { do: "room.swap", player, args: { with: whom } },
    balance: { do: "room.balance", player: host, args: {} },
    baton: { do: "room.give-baton", player, args: { limitMs: 2_000 } },
    pass: { do: "room.give-baton", player, args: {} },
    "take-baton": { do: "room.take-baton", player, args: {} },
    settings: { do: "room.change", player, args: { settings: { [`key${size % 3}`]: size === 0 ? null : size } } },
    enter: { do: "room.enter", player, args: { name: `Room ${size % 2}`, move: size > 3 } },
    result: { do: "room.set-result", player: host, args: { standings: scores } },
    again: { do: "room.again", player, args: {} },
    gather: { do: "room.gather", player, args: {} },
    measure: { do: "player.measure", player, latency },
    unban: { do: "room.unban", player, args: { player: whom } },
    "operator-ban":
      size < 2
        ? { do: "room.operator-ban", room, player: whom, reason: undefined }
        : { do: "room.operator-unban", room, player: whom },
    "operator-result": { do: "room.operator-set-result", room, scores, note: undefined },
  };
  // Rare by chance alone: two who want the same change, and sides that are uneven.
  if (how === "swap" && size > 2) test.run({ do: "room.swap", player: whom, args: { with: player } });
  if (how === "balance") for (const one of members) test.run({ do: "room.take", player: one, args: { side: "north" } });
  test.ask(player, commands[how]);
}

function playInstance(test: TestHarbor, { which, step }: Extract<Move, { do: "instance" }>): void {
  const ids = [...test.harbor.state.pools.instances.keys()];
  const instance = ids[which % Math.max(1, ids.length)];
  if (instance === undefined) return;
  const { address, ordersGiven } = test.instance(instance);
  const commands: Record<typeof step, Command> = {
    spawned: { do: "instance.spawned", instance, pid: 4242 },
    announce: { do: "instance.announce", instance, port: address.port, pid: 4242 },
    probed: { do: "instance.probed", instance, reached: true, detail: "reached" },
    take: { do: "instance.take-orders", instance, taken: ordersGiven },
    exited: { do: "instance.exited", instance, exitCode: 0, signal: null },
    failed: { do: "instance.silent", instance, detail: "no pulse" },
  };
  test.run(commands[step]);
}

function muster(test: TestHarbor, which: number): void {
  const rooms = [...test.harbor.state.rooms.byId.values()];
  const room = rooms[which % Math.max(1, rooms.length)];
  if (room === undefined) return;
  test.run({ do: "room.pick-level", player: room.host ?? "p_none", args: { level: "brine-gate" } });
  for (const player of [...room.members.keys()]) test.run({ do: "room.ready", player, args: { ready: true } });
  test.run({ do: "room.start", player: room.host ?? "p_none", args: {} });
}

function onward(test: TestHarbor, which: number): void {
  const ids = [...test.harbor.state.pools.instances.values()].filter((one) => !one.gone).map((one) => one.id);
  const id = ids[which % Math.max(1, ids.length)];
  if (id === undefined) return;
  const { state, announced, match, ordersGiven, ordersTaken } = test.instance(id);
  const reserved = [...(match?.berths.values() ?? [])].find((berth) => berth.state === "reserved");
  if (!announced) playInstance(test, { do: "instance", which: indexOf(test, id), step: "announce" });
  else if (state === "booting") playInstance(test, { do: "instance", which: indexOf(test, id), step: "probed" });
  else if (ordersTaken < ordersGiven) playInstance(test, { do: "instance", which: indexOf(test, id), step: "take" });
  else if (reserved) board(test, reserved.player);
  else if (match) report(test, [...match.berths.keys()][0] ?? "");
}

const indexOf = (test: TestHarbor, id: string) => [...test.harbor.state.pools.instances.keys()].indexOf(id);

function board(test: TestHarbor, player: string): void {
  for (const { id, match } of test.harbor.state.pools.instances.values()) {
    const berth = match?.berths.get(player);
    if (match && berth)
      return void test.run({ do: "instance.board", instance: id, player, pass: berth.pass, run: match.run });
  }
}

function report(test: TestHarbor, player: string): void {
  for (const { id, match } of test.harbor.state.pools.instances.values()) {
    if (!match?.berths.has(player)) continue;
    const standings = [...match.berths.keys()].map((one, n) => ({ player: one, score: n }));
    return void test.run({ do: "instance.report", instance: id, run: match.run, standings, note: undefined });
  }
}

/** Random play of up to `most` moves. */
export const moves = (most: number) => fc.array(move, { minLength: 20, maxLength: most, size: "max" });
