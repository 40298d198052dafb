import assert from "node:assert/strict";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Harbor } from "../harbor/harbor.ts";
import { lobbyView } from "../lobbies/index.ts";
import { moves, play } from "../testing/random-play.ts";
import { testRules } from "../testing/rules.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { missingToStart } from "./explain.ts";
import { nameKey } from "./open-index.ts";
import { sideSizes } from "./sides.ts";
import type { Room } from "./state.ts";
import { roomListing, roomView } from "./view.ts";

/** What must hold at all times. */
function checkInvariants(test: TestHarbor): void {
  const { state } = test.harbor;
  const seated = new Set<string>();
  for (const room of state.rooms.byId.values()) {
    const members = [...room.members.values()];
    if (room.ways.emptyMs === 0) assert(members.length > 0, "an empty room closes");
    assert(members.length <= room.capacity, "never more members than capacity");
    assert.equal(room.host === null, members.length === 0, "a host exactly while somebody is in it");
    if (room.host !== null) assert(room.members.has(room.host), "the host is a member");
    if (room.baton) assert(room.members.has(room.baton.holder), "the baton is in a member's hand");
    checkSides(room);
    checkIndex(test, room);
    assert.equal(new Set(members.map((member) => member.place)).size, members.length, "places are unique");
    for (const { id, place, presence } of members) {
      assert(!seated.has(id), "nobody in two rooms");
      seated.add(id);
      assert(place < room.capacity, "places lie within the capacity");
      assert.equal(state.players.byId.get(id)?.room, room.id, "player and room agree");
      assert.equal(state.players.byId.get(id)?.presence, presence, "player and member agree on presence");
    }
    assert.equal(
      room.run === null,
      room.phase === "gathering" || room.phase === "counting" || room.phase === "results",
      "a run is under way exactly once started",
    );
    if (room.phase === "travelling") assert(state.travels.byRun.has(room.run ?? ""), "a travelling room has a travel");
    if (room.phase !== "gathering")
      assert.deepEqual(missingToStart(room), [], "nothing is missing once it counts or has started");
    assert.equal(room.phase === "counting", room.startsAtMs !== null, "a time to start exactly while counting");
  }
  for (const travel of state.travels.byRun.values()) {
    assert.equal(state.rooms.byId.get(travel.room)?.run, travel.run, "a travel belongs to its room's run");
  }
  const standing = state.lobbies.byId.get("quayside")?.standing;
  for (const player of state.players.byId.values()) {
    assert.equal(standing?.has(player.id) ?? false, player.room === null, "in the lobby exactly when in no room");
  }
  const ports = [...state.pools.instances.values()].filter((one) => !one.gone).map((one) => one.address.port);
  assert.equal(new Set(ports).size, ports.length, "no two live instances share a port");
}

function checkSides(room: Room): void {
  const { sides } = room.ways;
  for (const { side } of room.members.values()) {
    if (sides === null) assert.equal(side, null, "no side where there are none");
    else assert(side !== null && sides.names.includes(side), "everybody stands on a side");
  }
  for (const size of sideSizes(room).values()) assert(size <= (sides?.most ?? 0), "no side is over its limit");
}

function checkIndex(test: TestHarbor, room: Room): void {
  const { open, byName, byCode } = test.harbor.state.rooms;
  const shelved = [...open.values()].flatMap((shelf) => [...shelf]).filter(([, row]) => row.has(room.id));
  const isOpen = roomListing(room).isOpen && room.visibility === "listed";
  assert.deepEqual(
    shelved.map(([free]) => free),
    isOpen ? [room.capacity - room.members.size] : [],
    "the index of open rooms has it once, where it belongs",
  );
  assert(byName.get(nameKey(room.lobby, room.name))?.has(room.id), "it is found by its name");
  assert.equal(byCode.get(room.code), room.id, "and by its code");
}

/** As it goes over the wire: without prototypes. */
const onTheWire = (value: unknown): unknown => JSON.parse(JSON.stringify(value ?? null));

/** Every client that applies picture plus news holds exactly the server's state. */
function checkPictures(test: TestHarbor): void {
  const { state } = test.harbor;
  for (const [id, picture] of test.pictures) {
    const player = state.players.byId.get(id);
    if (player?.presence !== "here") continue;
    const room = player.room === null ? undefined : state.rooms.byId.get(player.room);
    if (room) assert.deepEqual(onTheWire(picture.room), onTheWire(roomView(state, room)));
    else assert.deepEqual(onTheWire(picture.lobby), onTheWire(lobbyView(state, player.lobby)));
  }
  assert.deepEqual(onTheWire(test.watched), onTheWire(test.harbor.view()), "who watches everything holds everything");
}

// A deadline that fell due and changed nothing left no event: it is due once more after a recovery, and changes nothing.
const plain = (harbor: Harbor, now: number) => {
  const { deadlines, ...rest } = harbor.state;
  const due = [...deadlines.current.values()]
    .filter(({ at }) => at > now)
    .map(({ kind, subject, at }) => `${at} ${kind} ${subject}`)
    .sort();
  return { ...rest, due };
};

const partsOfTheVoyage = [
  ...["player.entered", "player.resumed", "player.lost", "player.left", "lobby.stood", "lobby.stepped-out"],
  ...[
    "room.opened",
    "room.joined",
    "room.departed",
    "room.settings-changed",
    "room.host-changed",
    "room.board-written",
    "room.board-erased",
    "room.level-picked",
    "room.ready-set",
    "room.counting",
    "room.count-stopped",
    "room.started",
  ],
  ...["room.banned", "room.unbanned", "room.moved", "room.swap-offered", "room.swapped", "room.balanced"],
  ...["room.measured", "room.baton-passed", "room.baton-taken", "room.gathered", "lobby.tallied", "player.measured"],
  ...["travel.joined", "instance.berth-added", "instance.match-ended"],
  ...[
    "travel.called",
    "travel.retried",
    "travel.boarding",
    "travel.arrived",
    "travel.forgot",
    "travel.completed",
    "travel.failed",
  ],
  ...["room.playing", "room.result-set", "room.returned", "room.closed", "room.member-away", "room.member-back"],
  ...[
    "instance.ordered",
    "instance.booting",
    "instance.opened",
    "instance.assigned",
    "instance.took-orders",
    "instance.boarded",
  ],
  ...["instance.reported", "instance.stop-ordered", "instance.failed", "instance.exited", "instance.forgotten"],
];

describe("rooms, under random play", () => {
  it("keep every rule, and every client's picture equals the state", () => {
    fc.assert(
      fc.property(moves(250), (moves) => {
        const test = new TestHarbor();
        const players = [test.enter("Ansel"), test.enter("Brisa")];
        for (const next of moves) {
          play(test, players, next);
          checkInvariants(test);
          checkPictures(test);
        }
      }),
      { numRuns: 250 },
    );
  });

  it("reach every part of the voyage, so that the rules above were tried on it", () => {
    const seen = new Set<string>();
    for (const sample of fc.sample(moves(250), { numRuns: 500, seed: 20_261_123 })) {
      const test = new TestHarbor();
      const players: string[] = [];
      for (const next of sample) play(test, players, next);
      for (const kind of test.kinds()) seen.add(kind);
    }
    expect(partsOfTheVoyage.filter((kind) => !seen.has(kind))).toEqual([]);
  });

  it("come out the same when the journal is replayed, and when a snapshot is read back", () => {
    fc.assert(
      fc.property(moves(200), (moves) => {
        const test = new TestHarbor();
        const players: string[] = [];
        for (const next of moves) play(test, players, next);
        const replayed = new Harbor(testRules());
        for (const { event, at } of test.journal) replayed.replay(JSON.parse(JSON.stringify(event)), at);
        expect(plain(replayed, test.now)).toEqual(plain(test.harbor, test.now));
        const restored = Harbor.fromSnapshot(testRules(), test.harbor.snapshot());
        expect(restored && plain(restored, test.now)).toEqual(plain(test.harbor, test.now));
      }),
      { numRuns: 100 },
    );
  });

  it("are decided the same from the same commands and stamps", () => {
    fc.assert(
      fc.property(moves(150), (moves) => {
        const [first, second] = [0, 1].map(() => {
          const test = new TestHarbor();
          const players: string[] = [];
          for (const next of moves) play(test, players, next);
          return JSON.stringify(test.journal);
        });
        expect(first).toBe(second);
      }),
      { numRuns: 50 },
    );
  });
});
