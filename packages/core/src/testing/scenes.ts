import type { PlayerArgs } from "@yellow-harbor/protocol";
import { matchFor } from "../model/pools/holds.ts";
import type { TestHarbor } from "./test-harbor.ts";

/** Opens a room of a kind; returns its id. */
export function openRoom(test: TestHarbor, player: string, args: PlayerArgs<"room.open"> = {}): string {
  const { reply, refused } = test.ask(player, { do: "room.open", player, args });
  if (refused) throw new Error(refused.detail);
  return (reply as { room: { id: string } }).room.id;
}

export function joinRoom(test: TestHarbor, room: string, ...players: readonly string[]): void {
  for (const player of players) {
    const { refused } = test.ask(player, { do: "room.join", player, args: { room } });
    if (refused) throw new Error(refused.detail);
  }
}

/** Everybody ready, level picked, started. */
export function startRoom(test: TestHarbor, room: string): void {
  const { host, members, policy } = test.room(room);
  const player = host ?? "";
  if (policy.levelBy === "host") test.ok({ do: "room.pick-level", player, args: { level: "brine-gate" } });
  for (const member of members.keys()) test.ok({ do: "room.ready", player: member, args: { ready: true } });
  test.ok({ do: "room.start", player, args: {} });
}

export const instanceOf = (test: TestHarbor, room: string): string =>
  test.harbor.state.pools.byRoom.get(room) ?? "none";

/** The room's instance comes up and takes what it was told. */
export function bringUp(test: TestHarbor, room: string): void {
  const instance = instanceOf(test, room);
  const { port } = test.instance(instance).address;
  test.ok({ do: "instance.spawned", instance, pid: 4242 });
  test.ok({ do: "instance.announce", instance, port, pid: 4242 });
  test.ok({ do: "instance.probed", instance, reached: true, detail: "reached" });
  acknowledge(test, room);
}

export function acknowledge(test: TestHarbor, room: string): void {
  const instance = instanceOf(test, room);
  test.ok({ do: "instance.acknowledge", instance, acknowledged: test.instance(instance).instructionsGiven });
}

export function boardAll(test: TestHarbor, room: string): void {
  const instance = instanceOf(test, room);
  const match = matchFor(test.instance(instance), room);
  for (const { player, pass, state } of [...(match?.berths.values() ?? [])]) {
    if (state === "reserved") test.ok({ do: "instance.board", instance, player, pass, run: match?.run ?? "" });
  }
}

/** From gathering to playing. */
export function playRoom(test: TestHarbor, room: string): void {
  startRoom(test, room);
  bringUp(test, room);
  boardAll(test, room);
}

/** A room of a kind that has started with these players, the first its host; returns its id. */
export function startedRoom(test: TestHarbor, kind: string, players: readonly string[]): string {
  const [host = "", ...others] = players;
  const room = openRoom(test, host, { kind, capacity: 3 });
  joinRoom(test, room, ...others);
  startRoom(test, room);
  return room;
}

export const runOf = (test: TestHarbor, room: string): string => test.room(room).run ?? "none";

/** The travel of a room as a member holds it, or as operators do when it holds none. */
export const travelSeen = (test: TestHarbor, room: string, player: string) =>
  test.views.get(player)?.room?.travel ?? test.harbor.view().rooms[room]?.travel;

/** A room of a kind with these players, that plays. */
export function playedRoom(test: TestHarbor, kind: string, players: readonly string[]): string {
  const room = startedRoom(test, kind, players);
  bringUp(test, room);
  boardAll(test, room);
  return room;
}

/** A party of so many, the first of whom leads it. */
export function foundParty(test: TestHarbor, ...names: string[]): { party: string; code: string; players: string[] } {
  const players = names.map((name) => test.connect(name));
  const [leader = "", ...others] = players;
  const { party } = test.ok({ do: "party.open", player: leader, args: {} });
  for (const player of others) test.ok({ do: "party.join", player, args: { code: party.code } });
  return { party: party.id, code: party.code, players };
}
