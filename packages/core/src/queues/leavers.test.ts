import { describe, expect, it } from "vitest";
import { testRules } from "../testing/rules.ts";
import { boardAll, bringUp } from "../testing/scenes.ts";
import { search, ticketOf } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";

function costly(): TestHarbor {
  const rules = testRules();
  const leavers = { pausesMs: [5_000, 20_000], forgetMs: 600_000 };
  const queues = [...rules.queues].map(([id, queue]) => [id, id === "pairs" ? { ...queue, leavers } : queue] as const);
  return new TestHarbor({ ...rules, queues: new Map(queues) });
}

const connect = (test: TestHarbor, account: string): string => test.connectAs(account) ?? "";

/** Two are matched; their room plays, or is on its way. */
function matched(test: TestHarbor, players: readonly string[], { plays = true } = {}): string {
  for (const player of players) expect(search(test, player, 1_000).refused).toBeUndefined();
  test.pass(500);
  const room = test.harbor.state.players.byId.get(players[0] ?? "")?.room ?? "";
  if (plays) {
    bringUp(test, room);
    boardAll(test, room);
  }
  return room;
}

const leave = (test: TestHarbor, ...players: readonly string[]) => {
  for (const player of players) test.ok({ do: "room.leave", player, args: {} });
  test.pass(100);
};

describe("who leaves a match that is being played", () => {
  it("may not search for a while, longer each time, though matches were played in between", () => {
    const test = costly();
    const [ansel, brisa] = [connect(test, "game:1"), connect(test, "game:2")];
    matched(test, [ansel, brisa]);
    leave(test, ansel);
    expect(search(test, ansel, 1_000).refused).toMatchObject({
      code: "search-too-soon",
      detail: "You left a match before the end and may search again in 5 s.",
    });
    leave(test, brisa);
    test.pass(5_000);
    matched(test, [ansel, brisa]);
    leave(test, ansel);
    expect(search(test, ansel, 1_000).refused?.detail).toBe(
      "You left 2 matches before the end and may search again in 20 s.",
    );
    expect(test.appliedEvents.map((applied) => test.harbor.describe(applied, test.now))).toContain(
      "Of game:1 has left a match that is played and may not search again for a while.",
    );
  });

  it("is known by its account, also when it leaves the game and comes again", () => {
    const test = costly();
    const [ansel, brisa] = [connect(test, "game:1"), connect(test, "game:2")];
    matched(test, [ansel, brisa]);
    test.ok({ do: "player.leave", player: ansel });
    test.pass(100);
    const again = connect(test, "game:1");
    expect(again).not.toBe(ansel);
    expect(search(test, again, 1_000).refused?.code).toBe("search-too-soon");
  });

  it("is neither who is kicked, nor who leaves before it is played or after its result", () => {
    const test = costly();
    const [ansel, brisa] = [connect(test, "game:1"), connect(test, "game:2")];
    const room = matched(test, [ansel, brisa]);
    test.ok({ do: "room.operator-kick", room, player: ansel, reason: undefined, ban: false });
    test.pass(100);
    leave(test, brisa);
    test.pass(6_000);
    expect(search(test, ansel, 1_000).refused).toBeUndefined();
    expect(ticketOf(test, ansel)).toBeDefined();
    test.ok({ do: "queue.cancel", player: ansel, args: {} });
    matched(test, [ansel, brisa], { plays: false });
    leave(test, ansel);
    expect(test.harbor.state.queues.leavers.has("game:1")).toBe(false);
  });
});
