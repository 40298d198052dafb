import fc from "fast-check";
import { beforeEach, describe, expect, it } from "vitest";
import { evenOut, sideSizes } from "../../model/rooms/sides.ts";
import { joinRoom, openRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

let test: TestHarbor;
let room: string;
let players: string[];
beforeEach(() => {
  test = new TestHarbor();
  players = ["Ansel", "Brisa", "Corin", "Dovie"].map((name) => test.connect(name));
  room = openRoom(test, players[0] as string, { kind: "sided" });
  joinRoom(test, room, ...players.slice(1));
});

const at = (n: number) => players[n] as string;
const seats = () => [...test.room(room).members.values()].map(({ name, place, side }) => `${name} ${place} ${side}`);
const swap = (n: number, other: number) => ({ do: "room.swap", player: at(n), args: { with: at(other) } }) as const;
const leave = (n: number) => test.ask(at(n), { do: "room.leave", player: at(n), args: {} });

describe("places and sides", () => {
  it("are given to the smallest side, the first of those", () => {
    expect(seats()).toEqual(["Ansel 0 north", "Brisa 1 south", "Corin 2 north", "Dovie 3 south"]);
  });

  it("may be taken when free, and clear readiness where the kind says so", () => {
    leave(3);
    test.ok({ do: "room.ready", player: at(1), args: { ready: true } });
    test.ok({ do: "room.move-to", player: at(2), args: { place: 3, side: "south" } });
    expect(seats()).toEqual(["Ansel 0 north", "Brisa 1 south", "Corin 3 south"]);
    expect(test.room(room).members.get(at(1))?.ready).toBe(false);
    expect(test.views.get(at(0))?.room?.members[at(1)]?.ready).toBe(false);
  });

  it("are refused when taken, full, or not there", () => {
    const take = (args: { place?: number; side?: string }) =>
      test.refusal({ do: "room.move-to", player: at(0), args }).code;
    expect(take({ place: 1 })).toBe("place-taken");
    expect(take({ place: 4 })).toBe("request-invalid");
    expect(take({ side: "south" })).toBe("side-full");
    expect(take({ side: "west" })).toBe("side-unknown");
  });

  it("are swapped once both have offered, and not before", () => {
    test.ok(swap(0, 1));
    expect(test.views.get(at(3))?.room?.members[at(0)]?.swapWith).toBe(at(1));
    expect(seats()[0]).toBe("Ansel 0 north");
    test.ok(swap(1, 0));
    expect(seats().slice(0, 2)).toEqual(["Ansel 1 south", "Brisa 0 north"]);
    expect(test.views.get(at(3))?.room?.members[at(0)]).not.toHaveProperty("swapWith");
  });

  it("keep an offer until it is taken back, or the other one is gone", () => {
    test.ok(swap(0, 1));
    test.ok(swap(0, 0));
    expect(test.room(room).members.get(at(0))?.swapWith).toBeNull();
    test.ok(swap(0, 1));
    leave(1);
    expect(test.room(room).members.get(at(0))?.swapWith).toBeNull();
    expect(test.views.get(at(2))?.room?.members[at(0)]).not.toHaveProperty("swapWith");
    expect(test.refusal(swap(0, 1)).code).toBe("member-unknown");
  });

  it("are balanced by the host, and what is uneven stands in the way of the start", () => {
    leave(1);
    leave(3);
    expect(test.views.get(at(0))?.room?.missing).toContainEqual({
      code: "sides",
      apart: 2,
      text: "the sides are uneven: north has 2, south has 0",
    });
    expect(test.refusal({ do: "room.balance", player: at(2), args: {} }).code).toBe("not-host");
    test.ok({ do: "room.balance", player: at(0), args: {} });
    expect([...sideSizes(test.room(room)).values()]).toEqual([1, 1]);
    expect(test.views.get(at(0))?.room?.missing.map(({ code }) => code)).not.toContain("sides");
  });
});

describe("evening out", () => {
  const members = fc
    .array(fc.constantFrom("north", "south", "east"), { maxLength: 40 })
    .map((sides) => sides.map((side, n) => ({ id: `p_${n}`, side })));

  it("ends with sides at most one apart, moves nobody twice, and no more than it must", () => {
    fc.assert(
      fc.property(members, (standing) => {
        const names = ["north", "south", "east"];
        const moves = evenOut(standing, names);
        const after = new Map<string, string>(standing.map(({ id, side }) => [id, side]));
        for (const { player, side } of moves) after.set(player, side);
        const size = (all: Iterable<string>, name: string) => [...all].filter((side) => side === name).length;
        const sizes = names.map((name) => size(after.values(), name));
        expect(Math.max(...sizes) - Math.min(...sizes)).toBeLessThanOrEqual(1);
        expect(new Set(moves.map(({ player }) => player)).size).toBe(moves.length);
        // Whoever stands above the larger of the two final sizes has to go; nobody else.
        const high = Math.ceil(standing.length / 3);
        const low = Math.floor(standing.length / 3);
        const before = names.map((name) =>
          size(
            standing.map(({ side }) => side),
            name,
          ),
        );
        const over = before.reduce((sum, n) => sum + Math.max(0, n - high), 0);
        const under = before.reduce((sum, n) => sum + Math.max(0, low - n), 0);
        expect(moves.length).toBe(Math.max(over, under));
      }),
    );
  });
});
