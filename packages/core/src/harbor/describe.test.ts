import { describe, expect, it } from "vitest";
import { TestHarbor } from "../testing/test-harbor.ts";
import { describe as tell } from "./describe.ts";

describe("the story", () => {
  it("tells a voyage in plain sentences, with names, numbers and reasons", () => {
    const test = new TestHarbor();
    const story: string[] = [];
    const run = (command: Parameters<TestHarbor["run"]>[0]) => {
      const outcome = test.harbor.execute(
        command,
        { at: 1_000, entropy: [story.length + 1, 2, 3, 4] },
        ({ event }, at) => {
          const text = tell(test.harbor.state, event, at);
          if (text !== undefined)
            story.push(text.replace(/[irpu]_[0-9a-z]{12}/g, "ID").replace(/([rR])oom [A-Z0-9]{5}/g, "$1oom CODE"));
        },
      );
      return outcome.reply as { player: { id: string }; room: { id: string } };
    };
    const connect = (name: string): string =>
      run({ do: "player.connect", name, build: "game-1", lobby: undefined, connection: 1 }).player.id;
    const [ansel, brisa] = [connect("Ansel"), connect("Brisa")];
    const room: string = run({ do: "room.open", player: ansel, args: { capacity: 2 } }).room.id;
    run({ do: "room.join", player: brisa, args: { room } });
    run({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
    run({ do: "board.set", player: brisa, args: { key: "flag", value: 1 } });
    run({ do: "player.lose", player: brisa, connection: 1 });
    run({ do: "player.resume", player: brisa, connection: 2 });
    run({ do: "room.kick", player: ansel, args: { player: brisa, reason: "too loud", ban: false } });
    run({ do: "room.leave", player: ansel, args: {} });
    expect(story).toEqual([
      "Ansel connects with build game-1, in quayside.",
      "Brisa connects with build game-1, in quayside.",
      "Ansel opens room CODE for 2 and is its host.",
      "Brisa joins room CODE at place 1 (2 of 2).",
      "Ansel picks level brine-gate for room CODE.",
      "Brisa sets flag on the board of room CODE.",
      "Brisa lost the connection; the place is kept for 10 s.",
      "Brisa is away from room CODE; place 1 is kept.",
      "Brisa is connected again.",
      "Brisa is back in room CODE.",
      "Brisa was kicked from room CODE by the host (1 of 2): too loud.",
      "Ansel leaves room CODE (0 of 2).",
      "Room CODE is empty and closes.",
    ]);
  });
});
