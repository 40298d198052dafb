import type { DirectoryUpdate, RoomListing } from "@yellow-harbor/protocol";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Connection } from "./connection.ts";
import { DirectoryHub } from "./directory.ts";
import type { Frame } from "./framing.ts";

const listing = (n: number, members: number): RoomListing => ({
  id: `r_${n}`,
  code: "CCCCC",
  name: `Room ${n}`,
  kind: "crews",
  host: "Ansel",
  phase: "gathering",
  members,
  capacity: 4,
  visibility: "listed",
  isOpen: members < 4,
  build: "game-1",
  settings: {},
  openedAtMs: n,
});

/** A client that applies what it is sent, as the SDK does. */
class Follower {
  readonly shown = new Map<string, RoomListing>();
  total = 0;
  frames = 0;
  readonly connection = {
    send: (frame: Frame) => {
      this.frames += 1;
      const { changed, gone, total } = JSON.parse(String(frame.content)) as DirectoryUpdate;
      for (const id of gone) this.shown.delete(id);
      for (const one of changed) this.shown.set(one.id, one);
      this.total = total;
    },
  } as unknown as Connection;

  begin(followed: ReturnType<DirectoryHub["follow"]>): this {
    if ("refused" in followed) throw new Error(followed.refused.detail);
    const { rooms, total } = followed;
    for (const one of rooms) this.shown.set(one.id, one);
    this.total = total;
    return this;
  }
}

const step = fc.oneof(
  { weight: 8, arbitrary: fc.record({ room: fc.nat(7), members: fc.integer({ min: 0, max: 4 }) }) },
  { weight: 2, arbitrary: fc.constant("flush" as const) },
  { weight: 1, arbitrary: fc.constant("follow" as const) },
);

describe("those who follow a directory", () => {
  it("hold what a newcomer is given at the same moment, whenever they came", () => {
    fc.assert(
      fc.property(fc.array(step, { maxLength: 80 }), fc.integer({ min: 1, max: 8 }), (steps, limit) => {
        const hub = new DirectoryHub();
        const args = { filter: { open: true }, limit };
        const follow = (state: RoomListing[]) => {
          const follower = new Follower();
          return follower.begin(hub.follow(follower.connection, "quayside", args, state));
        };
        const there = new Map<string, RoomListing>();
        const followers = [follow([])];
        for (const next of steps) {
          if (next === "flush") hub.flush();
          else if (next === "follow") followers.push(follow([...there.values()]));
          else {
            // No members: the room has closed. Four: it is full and does not fit the filter.
            const told = next.members === 0 ? undefined : listing(next.room, next.members);
            hub.change({ lobby: "quayside", room: `r_${next.room}`, listing: told });
            if (told?.isOpen) there.set(told.id, told);
            else there.delete(`r_${next.room}`);
          }
        }
        hub.flush();
        const last = follow([]);
        expect(last.total).toBe(there.size);
        expect(last.shown.size).toBe(Math.min(limit, there.size));
        for (const follower of followers) {
          expect(follower.total).toBe(there.size);
          expect(Object.fromEntries(follower.shown)).toEqual(Object.fromEntries(last.shown));
        }
      }),
    );
  });

  it("are one group when their filters say the same, and hear nothing of other lobbies", () => {
    const hub = new DirectoryHub();
    const [one, other] = [new Follower(), new Follower()];
    hub.follow(one.connection, "quayside", { filter: { kind: "crews", open: true }, limit: 5 }, []);
    hub.follow(other.connection, "quayside", { filter: { open: true, kind: "crews" }, limit: 5 }, []);
    hub.change({ lobby: "quayside", room: "r_1", listing: listing(1, 1) });
    hub.change({ lobby: "far-light", room: "r_2", listing: listing(2, 1) });
    hub.change({ lobby: "quayside", room: "r_1", listing: listing(1, 2) });
    hub.flush();
    expect([one.frames, other.frames]).toEqual([1, 1]);
    expect([...one.shown.values()].map(({ id, members }) => [id, members])).toEqual([["r_1", 2]]);
    hub.unfollow(one.connection);
    hub.unfollow(other.connection);
    expect(hub.isFollowed).toBe(false);
    hub.change({ lobby: "quayside", room: "r_1", listing: undefined });
    hub.flush();
    expect(one.frames).toBe(1);
  });

  it("may follow so many different filters from one address, and everybody may follow without one", () => {
    const hub = new DirectoryHub();
    const follow = (quota: object, settings: Record<string, number> | undefined) => {
      const connection = { quota, send: () => undefined } as unknown as Connection;
      const args = { filter: settings && { settings }, limit: 10 };
      return "refused" in hub.follow(connection, "quayside", args, []) ? "refused" : "followed";
    };
    const [one, other] = [{}, {}];
    const own = Array.from({ length: 80 }, (_, n) => follow(one, { n }));
    expect([own.indexOf("refused"), own.filter((how) => how === "followed").length]).toEqual([64, 64]);
    expect(follow(other, { n: 1_000 })).toBe("followed");
    expect(follow(one, undefined)).toBe("followed");
    for (let n = 0; n < 2_000; n++) follow({}, { n: 2_000 + n });
    expect(follow({}, { n: 9_999 })).toBe("refused");
  });

  it("are given so much of a large directory that one answer carries it", () => {
    const hub = new DirectoryHub();
    const connection = { quota: {}, send: () => undefined } as unknown as Connection;
    const settings = Object.fromEntries(Array.from({ length: 32 }, (_, n) => [`s${n}`, "x".repeat(200)]));
    const state = Array.from({ length: 300 }, (_, n) => ({ ...listing(n, 1), settings }));
    const followed = hub.follow(connection, "quayside", { filter: undefined, limit: 300 }, state);
    if ("refused" in followed) throw new Error("refused");
    expect(followed.total).toBe(300);
    expect(JSON.stringify(followed.rooms).length).toBeLessThan(300_000);
    expect(followed.rooms.length).toBeGreaterThan(20);
  });
});
