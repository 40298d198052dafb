import fc from "fast-check";
import type { Command } from "../model/command.ts";
import { berthsKept, matchesOf } from "../model/pools/holds.ts";
import { type Arranging, arrange, type Governing, govern, type Travelling, travel, travelOn } from "./random-acts.ts";
import { board, report } from "./random-boarding.ts";
import { FLEETING, type Fleeting, fleet } from "./random-fleet.ts";
import { OPERATING, type Operating, operate } from "./random-operation.ts";
import { PARTYING, type Partying, partying } from "./random-party.ts";
import { type Searching, search } from "./random-search.ts";
import type { TestHarbor } from "./test-harbor.ts";

const KINDS = [
  ...(["crews", "counted", "eager", "sided", "open-house", "host-bound"] as const),
  ...(["hosted", "relayed", "anywhere", "voting", "sided", "open-house"] as const),
];
type RoomKind = (typeof KINDS)[number];

type InstanceStep =
  | ("spawned" | "announce" | "probed" | "take" | "unboard" | "kick" | "exited" | "failed")
  | ("drain" | "nobody-there" | "all-there" | "strangers-there");

/** What a random player may do next. Numbers choose among the players, rooms and instances that there are. */
export type Move =
  | { do: "connect" }
  /** Comes as one of a few accounts, or has it banned for a while. */
  | { do: "account"; which: number }
  | { do: "ban"; which: number }
  | { do: "open"; who: number; kind: RoomKind }
  | { do: "leave" | "start" | "lose" | "resume" | "goodbye" | "level" | "board" | "report"; who: number }
  | { do: "join"; who: number; room: number; move: boolean }
  | { do: "arrange"; who: number; whom: number; how: Arranging; size: number }
  | { do: "ready"; who: number; ready: boolean }
  | {
      do: "instance";
      which: number;
      step: InstanceStep;
    }
  | {
      do: "govern";
      who: number;
      whom: number;
      power: Governing;
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
  | { do: "quickJoin"; who: number }
  | { do: "search"; who: number; how: Searching; skill: number }
  /** Somebody on its way, or asked to run the world, says something of it. */
  | { do: "travel"; who: number; how: Travelling; size: number }
  /** The whole of a room gets ready and its host starts. */
  | { do: "muster"; room: number }
  /** An instance goes one step further on its way, and its players with it. */
  | { do: "onward"; which: number }
  | { do: "fleet"; how: Fleeting; size: number }
  /** The game's own back end does something to a room. */
  | { do: "operate"; how: Operating; which: number; size: number }
  | { do: "party"; how: Partying; who: number; whom: number; size: number }
  | { do: "wait"; ms: number };

const who = fc.nat(9);
export const searchMove: fc.WeightedArbitrary<Move> = {
  weight: 8,
  arbitrary: fc.record({
    do: fc.constant("search" as const),
    who,
    how: fc.constantFrom<Searching[]>(
      ...(["search", "search", "search", "search", "accept", "accept", "accept"] as const),
      ...(["decline", "cancel", "fill", "no-fill", "pause", "open", "open"] as const),
    ),
    skill: fc.nat(60),
  }) as fc.Arbitrary<Move>,
};

const moveIn = (kinds: readonly RoomKind[], searching: boolean): fc.Arbitrary<Move> =>
  fc.oneof(
    { weight: 2, arbitrary: fc.constant({ do: "connect" as const }) },
    { weight: 1, arbitrary: fc.record({ do: fc.constantFrom("account" as const, "ban" as const), which: fc.nat(2) }) },
    {
      weight: 8,
      arbitrary: fc.record({
        do: fc.constantFrom("leave", "start", "lose", "resume", "goodbye", "level", "board", "report" as const),
        who,
      }) as fc.Arbitrary<Move>,
    },
    { weight: 2, arbitrary: fc.record({ do: fc.constant("open" as const), who, kind: fc.constantFrom(...kinds) }) },
    { weight: 5, arbitrary: fc.record({ do: fc.constant("join" as const), who, room: fc.nat(3), move: fc.boolean() }) },
    {
      weight: 8,
      arbitrary: fc.record({
        do: fc.constant("arrange" as const),
        who,
        whom: who,
        how: fc.constantFrom<Arranging[]>(
          ...(["take", "side", "swap", "swap", "balance", "turn", "pass", "pass", "end-turns", "settings"] as const),
          ...(["join-or-open", "result", "result", "again", "gather", "measure", "unban", "operator-ban"] as const),
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
          "unboard",
          "kick",
          "exited",
          "failed",
          ...(["drain", "nobody-there", "all-there", "strangers-there"] as const),
        ),
      }) as fc.Arbitrary<Move>,
    },
    {
      weight: 5,
      arbitrary: fc.record({
        do: fc.constant("govern" as const),
        who,
        whom: who,
        power: fc.constantFrom("change", "hand-over", "kick", "ban", "dissolve", "operator" as const),
        size: fc.nat(6),
      }) as fc.Arbitrary<Move>,
    },
    { weight: 4, arbitrary: fc.record({ do: fc.constant("quickJoin" as const), who }) },
    ...(searching ? [searchMove] : []),
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
    {
      weight: 14,
      arbitrary: fc.record({
        do: fc.constant("travel" as const),
        who,
        how: fc.constantFrom<Travelling[]>(
          ...(["progress", "progress", "arrive", "arrive", "arrive", "offer", "offer", "probed", "probed"] as const),
          ...(["board", "board", "pass", "setBackground", "silent", "vote", "vote"] as const),
          ...(["decline", "trouble", "abort", "operator-abort"] as const),
        ),
        size: fc.nat(12),
      }) as fc.Arbitrary<Move>,
    },
    { weight: 4, arbitrary: fc.record({ do: fc.constant("muster" as const), room: fc.nat(3) }) },
    { weight: 12, arbitrary: fc.record({ do: fc.constant("onward" as const), which: fc.nat(2) }) },
    {
      weight: 1,
      arbitrary: fc.record({ do: fc.constant("fleet" as const), how: fc.constantFrom(...FLEETING), size: fc.nat(12) }),
    },
    {
      weight: 3,
      arbitrary: fc.record({
        do: fc.constant("operate" as const),
        how: fc.constantFrom(...OPERATING),
        which: fc.nat(3),
        size: fc.nat(6),
      }),
    },
    {
      weight: 1,
      arbitrary: fc.record({
        do: fc.constant("party" as const),
        how: fc.constantFrom(...PARTYING),
        who,
        whom: who,
        size: fc.nat(6),
      }),
    },
    { weight: 2, arbitrary: fc.record({ do: fc.constant("wait" as const), ms: fc.nat(15_000) }) },
  );

/** Carries a move out as far as it makes sense in the state that there is. */
export function play(test: TestHarbor, players: string[], next: Move): void {
  if (next.do === "wait") return test.pass(next.ms);
  if (next.do === "account") {
    const player = players.length < 10 ? test.connectAs(`game:${next.which}`) : undefined;
    if (player !== undefined && !players.includes(player)) players.push(player);
    return;
  }
  if (next.do === "ban") {
    const subject = { account: `game:${next.which}` };
    return void test.run({ do: "ban.set", subject, reason: undefined, forMs: 3_000, by: "somebody" });
  }
  if (next.do === "connect") {
    if (players.length < 10) players.push(test.connect(`Player ${players.length}`));
    return;
  }
  if (next.do === "instance") return playInstance(test, next);
  if (next.do === "fleet") return fleet(test, next);
  if (next.do === "party") return partying(test, players, next);
  if (next.do === "operate") return operate(test, players, next);
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
      return asked({ do: "room.open", player, args: { capacity: 3, kind: next.kind } });
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
    case "quickJoin":
      return asked({ do: "room.quick-join", player, args: {} });
    case "search":
      return search(test, player, next);
    case "write": {
      const key = `key.${next.key}`;
      if (next.erase) return asked({ do: "board.remove", player, args: { key } });
      return asked({ do: "board.set", player, args: { key, value: next.value, onLeave: next.onLeave } });
    }
    case "govern":
      return govern(test, player, players[next.whom % players.length] ?? player, next);
    case "arrange":
      return arrange(test, player, players[next.whom % players.length] ?? player, next);
    case "travel":
      return travel(test, player, next);
    case "goodbye":
      return void test.run({ do: "player.leave", player });
    case "board":
      return board(test, player);
    case "report":
      return report(test, player);
  }
}

function playInstance(test: TestHarbor, { which, step }: Extract<Move, { do: "instance" }>): void {
  const ids = [...test.harbor.state.pools.instances.keys()];
  const instance = ids[which % Math.max(1, ids.length)];
  if (instance === undefined) return;
  const { address, instructionsGiven, instructionsAcknowledged } = test.instance(instance);
  const poll = { do: "instance.acknowledge", instance, acknowledged: instructionsAcknowledged } as const;
  const aboard = berthsKept(test.instance(instance)).flatMap(({ player, state }) =>
    state === "taken" ? [player] : [],
  );
  const commands: Record<typeof step, Command> = {
    spawned: { do: "instance.spawned", instance, pid: 4242 },
    announce: { do: "instance.announce", instance, port: address.port, pid: 4242 },
    probed: { do: "instance.probed", instance, reached: true, detail: "reached" },
    take: { do: "instance.acknowledge", instance, acknowledged: instructionsGiven },
    unboard: { do: "instance.unboard", instance, player: someoneAboard(test, instance), reason: "lost" },
    kick: {
      do: "instance.kick",
      instance,
      player: someoneAboard(test, instance),
      reason: "at random",
      ban: which === 0,
    },
    exited: { do: "instance.exited", instance, exitCode: 0, signal: null },
    failed: { do: "instance.silent", instance, detail: "no poll" },
    drain: { do: "pool.drain", id: instance, why: "drained at random" },
    "nobody-there": { ...poll, players: [] },
    "all-there": { ...poll, players: aboard },
    "strangers-there": { ...poll, players: [...aboard, "p_stranger00000", ...test.harbor.state.players.byId.keys()] },
  };
  test.run(commands[step]);
}

const someoneAboard = (test: TestHarbor, instance: string): string =>
  [...(matchesOf(test.instance(instance))[0]?.berths.values() ?? [])].find(({ state }) => state === "taken")?.player ??
  "p_none";

function muster(test: TestHarbor, which: number): void {
  const rooms = [...test.harbor.state.rooms.byId.values()];
  const room = rooms[which % Math.max(1, rooms.length)];
  if (room === undefined) return;
  test.run({ do: "room.pick-level", player: room.host ?? "p_none", args: { level: "brine-gate" } });
  for (const player of [...room.members.keys()]) test.run({ do: "room.ready", player, args: { ready: true } });
  test.run({ do: "room.start", player: room.host ?? "p_none", args: {} });
}

function onward(test: TestHarbor, which: number): void {
  travelOn(test, which);
  const ids = [...test.harbor.state.pools.instances.values()].filter((one) => !one.gone).map((one) => one.id);
  const id = ids[which % Math.max(1, ids.length)];
  if (id === undefined) return;
  const { state, announced, instructionsGiven, instructionsAcknowledged } = test.instance(id);
  const [match] = matchesOf(test.instance(id));
  const reserved = [...(match?.berths.values() ?? [])].find((berth) => berth.state === "reserved");
  if (!announced) playInstance(test, { do: "instance", which: indexOf(test, id), step: "announce" });
  else if (state === "booting") playInstance(test, { do: "instance", which: indexOf(test, id), step: "probed" });
  else if (instructionsAcknowledged < instructionsGiven)
    playInstance(test, { do: "instance", which: indexOf(test, id), step: "take" });
  else if (reserved) board(test, reserved.player);
  else if (match) report(test, [...match.berths.keys()][0] ?? "");
}

const indexOf = (test: TestHarbor, id: string) => [...test.harbor.state.pools.instances.keys()].indexOf(id);

/** Random play of up to `most` moves, in rooms of some kinds, with players who search in a queue or without. */
export const moves = (max: number, kinds: readonly RoomKind[] = KINDS, searching = true) =>
  fc.array(moveIn(kinds, searching), { minLength: 20, maxLength: max, size: "max" });
