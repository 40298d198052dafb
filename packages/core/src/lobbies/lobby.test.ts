import { beforeEach, describe, expect, it } from "vitest";
import { openRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { lobbyView } from "./view.ts";

let test: TestHarbor;
beforeEach(() => {
  test = new TestHarbor();
});

const enter = (count: number) => Array.from({ length: count }, (_, n) => test.enter(`Player ${n}`));
const picture = (player: string) => test.pictures.get(player)?.lobby;

describe("a lobby", () => {
  it("tells how many stand in it, how many rooms there are and how many are in those, a second later", () => {
    const [ansel = "", brisa = ""] = enter(3);
    openRoom(test, brisa);
    expect(picture(ansel)?.counts).toEqual({ players: 0, rooms: 0, inRooms: 0, searching: 0 });
    test.pass(1_000);
    expect(picture(ansel)?.counts).toEqual({ players: 2, rooms: 1, inRooms: 1, searching: 0 });
  });

  it("gathers what changes within a second into one piece of news", () => {
    const [ansel = ""] = enter(1);
    test.pass(1_000);
    const from = test.journal.length;
    enter(4);
    test.pass(10_000);
    expect(test.kinds(from).filter((kind) => kind === "lobby.tallied")).toHaveLength(1);
    expect(picture(ansel)?.counts.players).toBe(5);
  });

  it("is told in numbers once it is crowded, and by name again when it has emptied", () => {
    const players = enter(7);
    const [ansel = ""] = players;
    expect(Object.keys(picture(ansel)?.players ?? {})).toHaveLength(7);
    test.pass(1_000);
    expect(picture(ansel)).not.toHaveProperty("players");
    expect(picture(ansel)?.counts.players).toBe(7);

    // Nobody hears of a single one who comes, and the newcomer's picture has no names either.
    const edda = test.enter("Edda");
    const { pushes = [] } = test.happenings.at(-1) ?? {};
    expect(pushes).toEqual([]);
    expect(picture(edda)).not.toHaveProperty("players");

    // Well below the limit of six, not just below.
    for (const player of players.slice(3)) test.run({ do: "player.leave", player });
    test.pass(1_000);
    expect(Object.keys(picture(ansel)?.players ?? {})).toHaveLength(4);
    expect(picture(ansel)).toEqual(lobbyView(test.harbor.state, "quayside"));
  });
});
