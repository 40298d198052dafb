import { beforeEach, describe, expect, it } from "vitest";
import { matchesOf } from "../model/pools/holds.ts";
import {
  acknowledge,
  boardAll,
  bringUp,
  instanceOf,
  joinRoom,
  openRoom,
  runOf,
  startedRoom,
  travelSeen,
} from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
let corin: string;
beforeEach(() => {
  test = new TestHarbor();
  [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [string, string, string];
});

const started = (kind: string, ...others: string[]) => startedRoom(test, kind, [ansel, brisa, ...others]);
const run = (room: string) => runOf(test, room);
const travel = (room: string) => travelSeen(test, room, brisa);

describe("from level to level", () => {
  it("keeps the instance until everybody has arrived at the other one", () => {
    const room = started("anywhere");
    bringUp(test, room);
    boardAll(test, room);
    const first = instanceOf(test, room);
    test.ok({ do: "instance.report", instance: first, run: run(room), standings: [], note: undefined });
    test.ok({ do: "room.again", player: ansel, args: {} });
    const second = instanceOf(test, room);
    expect(test.instance(second).pool).toBe("weir");
    expect(travel(room)?.from).toEqual({ instance: first, address: test.instance(first).address });
    bringUp(test, room);
    expect(test.instance(first).state).toBe("open");
    boardAll(test, room);
    expect(test.room(room)).toMatchObject({ phase: "playing", destination: { instance: second } });
    expect(test.instance(first).state).toBe("draining");
  });

  it("does not mind when the one it comes from is lost on the way", () => {
    const room = started("anywhere");
    bringUp(test, room);
    boardAll(test, room);
    const first = instanceOf(test, room);
    test.ok({ do: "instance.report", instance: first, run: run(room), standings: [], note: undefined });
    test.ok({ do: "room.again", player: ansel, args: {} });
    test.ok({ do: "instance.exited", instance: first, exitCode: 1, signal: null });
    bringUp(test, room);
    boardAll(test, room);
    expect(test.room(room).phase).toBe("playing");
  });

  it("goes to another level of the host's choice from the results, or by most votes", () => {
    const room = openRoom(test, ansel, { kind: "voting", capacity: 3 });
    joinRoom(test, room, brisa, corin);
    expect(test.room(room).level?.id).toBe("brine-gate");
    const vote = (player: string, level: string) => test.ok({ do: "room.vote", player, args: { level } });
    vote(ansel, "gull-flats");
    vote(brisa, "brine-gate");
    expect(test.room(room).level?.id).toBe("brine-gate");
    vote(corin, "gull-flats");
    expect(test.views.get(brisa)?.room?.level?.id).toBe("gull-flats");
    test.ok({ do: "room.leave", player: corin, args: {} });
    expect(test.room(room).level?.id).toBe("brine-gate");
    const pick = test.refusal({ do: "room.pick-level", player: ansel, args: { level: "gull-flats" } });
    expect(pick.code).toBe("level-not-yours");
  });
});

describe("an instance that is lost", () => {
  it("in the middle of the run has the room begin anew at another, where the room kind says so", () => {
    const room = started("anywhere");
    bringUp(test, room);
    boardAll(test, room);
    const [first, before] = [instanceOf(test, room), run(room)];
    test.ok({ do: "instance.exited", instance: first, exitCode: null, signal: "SIGSEGV" });
    expect(test.room(room)).toMatchObject({ phase: "travelling", result: { run: before, void: true } });
    expect(run(room)).not.toBe(before);
    bringUp(test, room);
    boardAll(test, room);
    expect(test.room(room).phase).toBe("playing");
    // Not for ever: two attempts are allowed here.
    test.ok({ do: "instance.exited", instance: instanceOf(test, room), exitCode: null, signal: "SIGSEGV" });
    expect(test.room(room)).toMatchObject({ phase: "gathering", result: { void: true } });
  });

  it("while boarding has everybody go to the next one, with fresh passes and no arrivals", () => {
    const room = started("crews");
    bringUp(test, room);
    const first = instanceOf(test, room);
    const [match] = matchesOf(test.instance(first));
    const berth = match?.berths.get(ansel);
    test.ok({ do: "instance.board", instance: first, player: ansel, pass: berth?.pass ?? "", run: run(room) });
    test.ok({ do: "instance.exited", instance: first, exitCode: 1, signal: null });
    expect(travel(room)).toMatchObject({ step: "preparing", waitingFor: [ansel, brisa] });
    expect(test.views.get(brisa)?.room?.members[ansel]?.aboard).toBeUndefined();
    bringUp(test, room);
    boardAll(test, room);
    expect(test.room(room).phase).toBe("playing");
  });

  it("leaves who missed the boarding a fresh pass, where the others went without", () => {
    const room = started("anywhere", corin);
    bringUp(test, room);
    test.run({ do: "player.lose", player: corin, connection: 1 });
    for (const player of [ansel, brisa]) {
      const instance = instanceOf(test, room);
      const pass = matchesOf(test.instance(instance))[0]?.berths.get(player)?.pass ?? "";
      test.ok({ do: "instance.board", instance, player, pass, run: run(room) });
    }
    expect(test.room(room).phase).toBe("playing");
    const { instructions } = test.instance(instanceOf(test, room));
    const [match] = matchesOf(test.instance(instanceOf(test, room)));
    expect(instructions).toMatchObject([{ instruction: "match-started", run: run(room), without: [corin] }]);
    expect(match?.berths.get(corin)?.state).toBe("reserved");
    const { reply } = test.resume(corin);
    expect(reply).toMatchObject({ pass: { player: corin, run: run(room) } });
    acknowledge(test, room);
    boardAll(test, room);
    expect(test.room(room).members.get(corin)?.aboard).toBe(true);
  });
});
