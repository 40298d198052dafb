import type { DirectoryFilter, DirectorySort } from "@yellow-harbor/protocol";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { directoryPage, fits, roomListing } from "../index.ts";
import { isSearching } from "../model/queues/state.ts";
import type { HarborState } from "../model/state.ts";
import { moves, play } from "../testing/random-play.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { readSnapshot, writeSnapshot } from "./snapshot.ts";

const filters: readonly (DirectoryFilter | undefined)[] = [
  ...[undefined, { kind: "crews" }, { open: true }, { open: false, freePlaces: 1 }, { level: "brine-gate" }],
  ...[{ freePlaces: 2, build: "game-1" }, { latencyMs: 40 }, { sideSize: 2 }, { settings: { weather: "fog" } }],
  ...([{ visibility: "listed" }, { visibility: "locked", kind: "sided" }] as const),
];
const sorts: readonly DirectorySort[] = ["newest", "oldest", "fullest", "emptiest", "latency"];

/** The directory as it would be without any index: all rooms, looked through. */
function listed(state: HarborState, lobby: string, filter: DirectoryFilter | undefined) {
  return [...state.rooms.byId.values()]
    .filter((room) => room.lobby === lobby && room.visibility !== "code-only")
    .map(roomListing)
    .filter((listing) => filter === undefined || fits(listing, filter));
}

/** All pages, a few rooms at a time. */
function paged(state: HarborState, lobby: string, filter: DirectoryFilter | undefined, sort: DirectorySort) {
  const found = [];
  let after: string | undefined;
  do {
    const page = directoryPage(state, lobby, { filter, sort, limit: 3, after });
    expect(page.total).toBe(listed(state, lobby, filter).length);
    found.push(...page.rooms);
    after = page.next;
  } while (after !== undefined);
  return found;
}

const keys: { readonly [S in DirectorySort]: (listing: ReturnType<typeof roomListing>) => number } = {
  newest: ({ openedAtMs }) => -openedAtMs,
  oldest: ({ openedAtMs }) => openedAtMs,
  fullest: ({ capacity, members, reserved = 0 }) => capacity - members - reserved,
  emptiest: ({ capacity, members, reserved = 0 }) => members + reserved - capacity,
  latency: ({ latencyMs }) => latencyMs ?? Number.POSITIVE_INFINITY,
};

/** Everything derived is what it would be if it were worked out now. */
function expectSame(state: HarborState): void {
  for (const lobby of state.lobbies.byId.keys()) {
    for (const filter of filters) {
      const all = listed(state, lobby, filter);
      for (const sort of sorts) {
        const rooms = paged(state, lobby, filter, sort);
        expect(rooms.map(({ id }) => id).sort()).toEqual(all.map(({ id }) => id).sort());
        const order = rooms.map(keys[sort]);
        expect(order).toEqual([...order].sort((a, b) => a - b));
      }
    }
  }
  for (const [name, queue] of state.queues.byName) {
    const tickets = [...queue.tickets].flatMap((id) => state.queues.tickets.get(id) ?? []);
    const searching = tickets.filter(isSearching);
    const { tickets: count, players, confirming, oldestSinceMs } = state.derived.queueCounts.of(name);
    expect([count, players, confirming, oldestSinceMs]).toEqual([
      searching.length,
      searching.reduce((sum, one) => sum + one.players.length, 0),
      new Set(tickets.flatMap(({ asked }) => asked ?? [])).size,
      searching.length === 0 ? undefined : Math.min(...searching.map(({ sinceMs }) => sinceMs ?? 0)),
    ]);
  }
}

describe("what a harbor works out of its state", () => {
  it("is what looking through all of it gives, after any play and after a snapshot", () => {
    fc.assert(
      fc.property(moves(120), (all) => {
        const test = new TestHarbor();
        const players: string[] = [];
        for (const [n, move] of all.entries()) {
          play(test, players, move);
          if (n % 40 === 39) expectSame(test.harbor.state);
        }
        const { state } = test.harbor;
        expectSame(state);
        const restored = readSnapshot(writeSnapshot(state));
        if (restored === undefined) throw new Error("the snapshot cannot be read");
        expectSame(restored);
      }),
      { numRuns: 40 },
    );
  });
});
