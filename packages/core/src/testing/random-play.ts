import fc from "fast-check";
import type { Command } from "../harbor/command.ts";
import type { TestHarbor } from "./test-harbor.ts";

/** What a random player may do next. Numbers choose among the players, rooms and instances that there are. */
export type Move =
  | { do: "enter" }
  | { do: "open" | "leave" | "start" | "lose" | "resume" | "goodbye" | "level" | "board" | "report"; who: number }
  | { do: "join"; who: number; room: number }
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
      do: fc.constantFrom("open", "leave", "start", "lose", "resume", "goodbye", "level", "board", "report" as const),
      who,
    }) as fc.Arbitrary<Move>,
  },
  { weight: 5, arbitrary: fc.record({ do: fc.constant("join" as const), who, room: fc.nat(3) }) },
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
        args: { capacity: 3, kind: ["crews", "counted", "eager"][next.who % 3] },
      });
    case "join":
      return asked({
        do: "room.join",
        player,
        args: { room: rooms[next.room % Math.max(1, rooms.length)] ?? "r_none" },
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
        ? { do: "room.dissolve", room, reason: "maintenance" }
        : { do: "room.operator-hand-over", room, to: whom },
    operator:
      size === 0
        ? { do: "player.put-out", player: whom, reason: undefined }
        : { do: "room.operator-put-out", room, player: whom, reason: undefined, ban: false },
  };
  test.run(commands[power]);
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
  test.run({ do: "room.pick-level", player: room.host, args: { level: "brine-gate" } });
  for (const player of [...room.members.keys()]) test.run({ do: "room.ready", player, args: { ready: true } });
  test.run({ do: "room.start", player: room.host, args: {} });
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
