import type { DirectoryFilter } from "@yellow-harbor/protocol";
import fc from "fast-check";
import { beforeEach, describe, expect, it } from "vitest";
import { moves, play } from "../../testing/random-play.ts";
import { joinRoom, openRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";
import { roomListing } from "../view.ts";
import { directoryPage, isDirectoryCursor, listedRooms, listingChange } from "./directory.ts";

let test: TestHarbor;
let players: string[];
let rooms: string[];
beforeEach(() => {
  test = new TestHarbor();
  players = ["Ansel", "Brisa", "Corin", "Dovie", "Edda"].map((name) => test.connect(name));
  rooms = [{ capacity: 2 }, { capacity: 4, kind: "sided" }, { capacity: 6 }].map((args, n) => {
    test.pass(10);
    return openRoom(test, players[n] as string, args);
  });
  joinRoom(test, rooms[0] as string, players[3] as string);
});

const list = (filter?: DirectoryFilter, sort: "newest" | "oldest" | "fullest" | "emptiest" | "latency" = "oldest") =>
  directoryPage(test.harbor.state, "quayside", { filter, sort, limit: 50 }).rooms.map(({ id }) => rooms.indexOf(id));
const change = (n: number, args: object) => test.ok({ do: "room.change", player: players[n] as string, args });

describe("the directory", () => {
  it.each([
    ["the kind", { kind: "sided" }, [1]],
    ["the level", { level: "gull-flats" }, [2]],
    ["the build", { build: "game-2" }, []],
    ["being open", { open: true }, [1, 2]],
    ["free places", { freePlaces: 4 }, [2]],
    ["the size of the sides", { sideSize: 2 }, [1]],
    ["settings", { settings: { weather: "fog", rounds: 3 } }, [1]],
    ["latency", { latencyMs: 50 }, [0]],
    ["visibility", { visibility: "locked" }, [2]],
    ["nothing", {}, [0, 1, 2]],
  ] satisfies [string, DirectoryFilter, number[]][])("filters by %s", (what, filter, expected) => {
    change(1, { settings: { weather: "fog", rounds: 3 } });
    change(2, { settings: { weather: "fog" }, level: "gull-flats" });
    if (what === "visibility") change(2, { visibility: "locked" });
    test.ok({ do: "player.measure", player: players[0] as string, latency: { latencyMs: 40, jitterMs: 2 } });
    test.ok({ do: "player.measure", player: players[1] as string, latency: { latencyMs: 80, jitterMs: 2 } });
    expect(list(filter)).toEqual(expected);
  });

  it("sorts, and never lists what is joined by code alone", () => {
    expect(list({}, "newest")).toEqual([2, 1, 0]);
    expect(list({}, "fullest")).toEqual([0, 1, 2]);
    expect(list({}, "emptiest").at(-1)).toBe(0);
    change(0, { visibility: "code-only" });
    expect(list()).toEqual([1, 2]);
  });

  it("comes in pages that hold everything once, also when the last room of a page is gone", () => {
    const page = (after?: string) => directoryPage(test.harbor.state, "quayside", { sort: "oldest", limit: 1, after });
    const first = page();
    expect(first).toMatchObject({ total: 3, rooms: [{ id: rooms[0] }] });
    test.run({ do: "room.dissolve", room: rooms[0] as string, reason: undefined, by: "operator" });
    const second = page(first.next);
    const third = page(second.next);
    expect([...second.rooms, ...third.rooms].map(({ id }) => id)).toEqual(rooms.slice(1));
    expect(third).not.toHaveProperty("next");
    expect([isDirectoryCursor("nonsense"), isDirectoryCursor(second.next ?? "")]).toEqual([false, true]);
  });

  it("of a lobby without rooms is an empty answer", () => {
    expect(directoryPage(test.harbor.state, "nowhere", { sort: "newest", limit: 5 })).toEqual({ rooms: [], total: 0 });
  });
});

describe("changes of the directory", () => {
  it("keep a copy of it equal to the whole, whatever happens", () => {
    fc.assert(
      fc.property(moves(150), (all) => {
        const harbor = new TestHarbor();
        const copy = new Map<string, unknown>();
        harbor.onEvent = ({ event }) => {
          const told = listingChange(harbor.harbor.state, event);
          if (told?.listing) copy.set(told.room, structuredClone(told.listing));
          else if (told) copy.delete(told.room);
        };
        const names: string[] = [];
        for (const next of all) play(harbor, names, next);
        const whole = listedRooms(harbor.harbor.state, "quayside").map((room) => [room.id, roomListing(room)]);
        expect(Object.fromEntries(copy)).toEqual(Object.fromEntries(whole));
      }),
      { numRuns: 100 },
    );
  });
});
