import { describe, expect, it } from "vitest";
import { testRules } from "../testing/rules.ts";
import type { HarborEvent } from "./event.ts";
import { Harbor } from "./harbor.ts";

/** As the version before wrote it. */
const former = [
  { kind: "harbor.founded", codeKey: [1, 2, 3, 4] },
  { kind: "player.entered", player: "p_1", name: "Ansel", build: "game-1", lobby: "quayside", connection: 1 },
  { kind: "lobby.stood", lobby: "quayside", player: "p_1", name: "Ansel", presence: "here" },
  {
    ...{ kind: "room.opened", room: "r_1", code: "K7RDM", name: "Ansel's room", lobby: "quayside" },
    ...{ roomKind: "crews", capacity: 4, leastPlayers: 3, graceMs: 7_000, countdownMs: 2_000, autoStart: true },
    ...{ host: "p_1", hostName: "Ansel" },
  },
] as unknown as HarborEvent[];

describe("a journal of the version before", () => {
  it("is replayed: its rooms keep the ways they had, and go on", () => {
    const harbor = new Harbor(testRules());
    for (const event of former) harbor.replay(event, 1_000);
    const room = harbor.state.rooms.byId.get("r_1");
    expect(room?.ways).toMatchObject({ leastPlayers: 3, graceMs: 7_000, countdownMs: 2_000, autoStart: true });
    expect(room?.ways).toMatchObject({ starters: "host", lateJoining: "closed", sides: null });
    const stamp = { at: 2_000, entropy: [1, 2, 3, 4] as const };
    const brisa = harbor.execute(
      { do: "player.enter", name: "Brisa", build: "game-1", lobby: undefined, connection: 2 },
      stamp,
    );
    const { player } = brisa.reply as { player: { id: string } };
    const joined = harbor.execute({ do: "room.join", player: player.id, args: { code: "K7RDM" } }, stamp);
    expect(joined.refused).toBeUndefined();
    expect(harbor.state.rooms.opened).toBe(1);
  });
});
