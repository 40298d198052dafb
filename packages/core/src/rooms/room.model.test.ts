import assert from "node:assert/strict";
import fc from "fast-check";
import { describe, it } from "vitest";
import { testRules } from "../testing/rules.ts";
import { runs } from "../testing/runs.ts";
import { acknowledge, boardAll, bringUp, instanceOf } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { roomView } from "./view.ts";

/** What a room is, in the plainest words there are. Written from the rules as they are told, not from their code. */
interface ModelRoom {
  capacity: number;
  host: string;
  level: string | null;
  isRunning: boolean;
  /** In the order in which they came. */
  members: { name: string; place: number; isReady: boolean; isHere: boolean }[];
  banned: string[];
  starts: number;
}
interface Model {
  rooms: Map<string, ModelRoom>;
  /** Whose connection is lost, in a room or kicked from it meanwhile. */
  away: Set<string>;
}
interface Real {
  test: TestHarbor;
  ids: Map<string, string>;
  rooms: Map<string, string>;
}

const NAMES = ["Ansel", "Brisa", "Corin", "Dovie"];
const LEAST = 2;

const roomOf = (model: Model, name: string) =>
  [...model.rooms].find(([, room]) => room.members.some((member) => member.name === name));
const isConnected = (model: Readonly<Model>, name: string) => !model.away.has(name);

function leaveRoom(model: Model, name: string): void {
  const [key, room] = roomOf(model, name) ?? [];
  if (key === undefined || room === undefined) return;
  room.members = room.members.filter((member) => member.name !== name);
  if (room.members.length === 0) model.rooms.delete(key);
  // A run that has not begun does not begin with too few.
  if (room.isRunning && room.members.length < LEAST) {
    room.isRunning = false;
    for (const member of room.members) member.isReady = false;
  }
  if (room.members.length > 0 && room.host === name)
    room.host = (room.members.find(({ isHere }) => isHere) ?? room.members[0])?.name ?? "";
}

const canStart = (room: ModelRoom) =>
  room.level !== null && room.members.length >= LEAST && room.members.every(({ isReady, isHere }) => isReady && isHere);

/** A move of one player: what the model expects, and how the harbor is asked. */
abstract class Move implements fc.Command<Model, Real> {
  readonly name: string;

  constructor(name: string) {
    this.name = name;
  }

  check(model: Readonly<Model>): boolean {
    return isConnected(model, this.name);
  }

  /** Changes the model, or returns false when the harbor has to refuse. */
  abstract expect(model: Model): boolean;
  abstract ask(real: Real, id: string): string | undefined;

  run(model: Model, real: Real): void {
    const before = real.test.journal.length;
    const accepted = this.expect(model);
    const refused = this.ask(real, real.ids.get(this.name) ?? "");
    assert.equal(refused === undefined, accepted, `${this}: ${refused ?? "accepted"}`);
    if (!accepted) assert.equal(real.test.journal.length, before, "a refusal changes nothing");
    compare(model, real);
  }

  toString(): string {
    return `${this.name} ${this.constructor.name}`;
  }
}

class Open extends Move {
  readonly key: string;
  readonly capacity: number;
  constructor(name: string, key: string, capacity: number) {
    super(name);
    this.key = key;
    this.capacity = capacity;
  }
  override check(model: Readonly<Model>): boolean {
    return super.check(model) && !model.rooms.has(this.key);
  }
  expect(model: Model): boolean {
    if (roomOf(model, this.name)) return false;
    const { name, capacity } = this;
    const members = [{ name, place: 0, isReady: false, isHere: true }];
    model.rooms.set(this.key, { capacity, host: name, level: null, isRunning: false, members, banned: [], starts: 0 });
    return true;
  }
  ask({ test, rooms }: Real, player: string): string | undefined {
    const { refused, reply } = test.ask(player, { do: "room.open", player, args: { capacity: this.capacity } });
    if (reply) rooms.set(this.key, (reply as { room: { id: string } }).room.id);
    return refused?.code;
  }
}

class Join extends Move {
  readonly key: string;
  constructor(name: string, key: string) {
    super(name);
    this.key = key;
  }
  override check(model: Readonly<Model>): boolean {
    return super.check(model) && model.rooms.has(this.key);
  }
  expect(model: Model): boolean {
    const room = model.rooms.get(this.key);
    if (room === undefined || roomOf(model, this.name) || room.isRunning) return false;
    if (room.members.length >= room.capacity || room.banned.includes(this.name)) return false;
    let place = 0;
    while (room.members.some((member) => member.place === place)) place += 1;
    room.members.push({ name: this.name, place, isReady: false, isHere: true });
    return true;
  }
  ask({ test, rooms }: Real, player: string): string | undefined {
    const room = rooms.get(this.key) ?? "r_none";
    return test.ask(player, { do: "room.join", player, args: { room } }).refused?.code;
  }
}

class Leave extends Move {
  expect(model: Model): boolean {
    const isIn = roomOf(model, this.name) !== undefined;
    leaveRoom(model, this.name);
    return isIn;
  }
  ask({ test }: Real, player: string): string | undefined {
    return test.ask(player, { do: "room.leave", player, args: {} }).refused?.code;
  }
}

class PickLevel extends Move {
  expect(model: Model): boolean {
    const room = roomOf(model, this.name)?.[1];
    if (room === undefined || room.host !== this.name || room.isRunning) return false;
    // Another level clears readiness in rooms of this kind; the same one again changes nothing.
    if (room.level === null) for (const member of room.members) member.isReady = false;
    room.level = "brine-gate";
    return true;
  }
  ask({ test }: Real, player: string): string | undefined {
    return test.run({ do: "room.pick-level", player, args: { level: "brine-gate" } }).refused?.code;
  }
}

class Ready extends Move {
  expect(model: Model): boolean {
    const room = roomOf(model, this.name)?.[1];
    const member = room?.members.find(({ name }) => name === this.name);
    if (room === undefined || member === undefined || room.isRunning) return false;
    member.isReady = true;
    return true;
  }
  ask({ test }: Real, player: string): string | undefined {
    return test.run({ do: "room.ready", player, args: { ready: true } }).refused?.code;
  }
}

/** Everybody who is here says so: by chance alone it would come to that too rarely. */
class AllReady extends Move {
  override check(model: Readonly<Model>): boolean {
    return super.check(model) && roomOf(model, this.name)?.[1].isRunning === false;
  }
  expect(model: Model): boolean {
    for (const member of roomOf(model, this.name)?.[1].members ?? []) member.isReady ||= member.isHere;
    return true;
  }
  ask({ test }: Real, player: string): string | undefined {
    const room = test.room(test.harbor.state.players.byId.get(player)?.room ?? "");
    const here = [...room.members.values()].filter(({ presence }) => presence === "here");
    const refused = here.map(({ id }) => test.run({ do: "room.ready", player: id, args: { ready: true } }).refused);
    return refused.find((one) => one !== undefined)?.code;
  }
}

class Start extends Move {
  expect(model: Model): boolean {
    const room = roomOf(model, this.name)?.[1];
    if (room === undefined || room.host !== this.name || room.isRunning || !canStart(room)) return false;
    room.isRunning = true;
    room.starts += 1;
    return true;
  }
  ask({ test }: Real, player: string): string | undefined {
    return test.run({ do: "room.start", player, args: {} }).refused?.code;
  }
}

class Kick extends Move {
  readonly whom: string;
  constructor(name: string, whom: string) {
    super(name);
    this.whom = whom;
  }
  expect(model: Model): boolean {
    const room = roomOf(model, this.name)?.[1];
    if (room === undefined || room.host !== this.name || this.whom === this.name) return false;
    if (!room.members.some(({ name }) => name === this.whom)) return false;
    room.banned.push(this.whom);
    leaveRoom(model, this.whom);
    return true;
  }
  ask({ test, ids }: Real, player: string): string | undefined {
    return test.run({ do: "room.kick", player, args: { player: ids.get(this.whom) ?? "", ban: true } }).refused?.code;
  }
}

class Lose extends Move {
  override check(model: Readonly<Model>): boolean {
    return super.check(model) && roomOf(model, this.name) !== undefined;
  }
  expect(model: Model): boolean {
    model.away.add(this.name);
    const member = roomOf(model, this.name)?.[1].members.find(({ name }) => name === this.name);
    if (member) member.isHere = false;
    return true;
  }
  ask({ test }: Real, player: string): string | undefined {
    return test.run({ do: "player.lose", player, connection: 1 }).refused?.code;
  }
}

class ComeBack extends Move {
  override check(model: Readonly<Model>): boolean {
    return !isConnected(model, this.name);
  }
  expect(model: Model): boolean {
    const member = roomOf(model, this.name)?.[1].members.find(({ name }) => name === this.name);
    model.away.delete(this.name);
    if (member) member.isHere = true;
    return true;
  }
  ask({ test }: Real, player: string): string | undefined {
    return test.resume(player).refused?.code;
  }
}

/** The run of a room goes from wherever it is to its result. */
class Finish extends Move {
  override check(model: Readonly<Model>): boolean {
    return roomOf(model, this.name)?.[1].isRunning === true;
  }
  expect(model: Model): boolean {
    const room = roomOf(model, this.name)?.[1];
    if (room) room.isRunning = false;
    for (const member of room?.members ?? []) member.isReady = false;
    return true;
  }
  ask({ test }: Real, player: string): string | undefined {
    const room = test.harbor.state.players.byId.get(player)?.room ?? "";
    const id = instanceOf(test, room);
    if (test.instance(id).announced) acknowledge(test, room);
    else bringUp(test, room);
    boardAll(test, room);
    const run = test.room(room).run ?? "";
    return test.run({ do: "instance.report", instance: id, run, standings: [], note: undefined }).refused?.code;
  }
}

/** As it goes over the wire: without prototypes. */
const onTheWire = (value: unknown): unknown => JSON.parse(JSON.stringify(value ?? null));

/** The harbor holds what the model says, and every client holds what the harbor does. */
function compare(model: Model, { test, ids, rooms }: Real): void {
  const nameOf = new Map([...ids].map(([name, id]) => [id, name]));
  const open = [...rooms].filter(([, id]) => test.harbor.state.rooms.byId.has(id)).map(([key]) => key);
  assert.deepEqual(open.sort(), [...model.rooms.keys()].sort());
  for (const [key, expected] of model.rooms) {
    const room = test.room(rooms.get(key) ?? "");
    assert.deepEqual(
      {
        capacity: room.capacity,
        host: nameOf.get(room.host ?? ""),
        level: room.level?.id ?? null,
        isRunning: room.run !== null,
        members: [...room.members.values()].map(({ name, place, ready, presence }) => {
          return { name, place, isReady: ready, isHere: presence === "here" };
        }),
        banned: [...room.banned.keys()].map((id) => nameOf.get(id)),
        starts: test.journal.filter(({ event }) => event.kind === "room.started" && event.room === room.id).length,
      },
      expected,
    );
    for (const { id, presence } of room.members.values()) {
      if (presence === "here")
        assert.deepEqual(onTheWire(test.views.get(id)?.room), onTheWire(roomView(test.harbor.state, room)));
    }
  }
}

function setUp(): { model: Model; real: Real } {
  const rules = testRules();
  const crews = rules.roomKinds.get("crews");
  assert(crews);
  const kind = { ...crews, clearsReady: ["level"] as const, graceMs: 3_600_000 };
  const test = new TestHarbor({ ...rules, roomKinds: new Map([["crews", kind]]) });
  const ids = new Map(NAMES.map((name) => [name, test.connect(name)]));
  return { model: { rooms: new Map(), away: new Set() }, real: { test, ids, rooms: new Map() } };
}

const name = fc.constantFrom(...NAMES);
const key = fc.constantFrom("one", "two");
const some = [
  fc.tuple(name, key, fc.integer({ min: 1, max: 4 })).map((args) => new Open(...args)),
  ...[Leave, Lose].map((Kind) => name.map((who) => new Kind(who))),
  fc.tuple(name, name).map((args) => new Kick(...args)),
];
// What leads on comes more often than what leads back, or no room would ever start.
const often = [
  fc.tuple(name, key).map((args) => new Join(...args)),
  ...[PickLevel, Ready, AllReady, AllReady, Start, Start, ComeBack, ComeBack, Finish].map((Kind) =>
    name.map((who) => new Kind(who)),
  ),
];

const ROUNDS_MAX = 10;

describe("rooms, held against a simple model", () => {
  it("do what it says, refuse what it refuses, and start once for each run", () => {
    let starts = 0;
    const holds = fc.property(
      fc.commands([...some, ...often, ...often, ...often, ...often], { maxCommands: 250, size: "max" }),
      (commands) => {
        const scene = setUp();
        fc.modelRun(() => scene, commands);
        starts += scene.real.test.kinds().filter((kind) => kind === "room.started").length;
      },
    );
    // Where few of what is drawn start at all, more is drawn: otherwise this would say little.
    for (let round = 0; round < ROUNDS_MAX && starts <= runs(60); round++) fc.assert(holds, { numRuns: runs(400) });
    assert(starts > runs(60), `the model was tried on rooms that start, not on ${starts}`);
  });
});
