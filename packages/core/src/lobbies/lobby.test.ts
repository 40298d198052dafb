import { beforeEach, describe, expect, it } from "vitest";
import { openRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { lobbyView } from "./view.ts";

let test: TestHarbor;
beforeEach(() => {
  test = new TestHarbor();
});

const connect = (count: number) => Array.from({ length: count }, (_, n) => test.connect(`Player ${n}`));
const view = (player: string) => test.views.get(player)?.lobby;

describe("a lobby", () => {
  it("tells how many are in it, how many rooms there are and how many are in those, a second later", () => {
    const [ansel = "", brisa = ""] = connect(3);
    openRoom(test, brisa);
    expect(view(ansel)?.counts).toEqual({ players: 0, rooms: 0, inRooms: 0, searching: 0 });
    test.pass(1_000);
    expect(view(ansel)?.counts).toEqual({ players: 2, rooms: 1, inRooms: 1, searching: 0 });
  });

  it("gathers what changes within a second into one update", () => {
    const [ansel = ""] = connect(1);
    test.pass(1_000);
    const from = test.journal.length;
    connect(4);
    test.pass(10_000);
    expect(test.kinds(from).filter((kind) => kind === "lobby.tallied")).toHaveLength(1);
    expect(view(ansel)?.counts.players).toBe(5);
  });

  it("is told in numbers once it is crowded, and by name again when it has emptied", () => {
    const players = connect(7);
    const [ansel = ""] = players;
    expect(Object.keys(view(ansel)?.players ?? {})).toHaveLength(7);
    test.pass(1_000);
    expect(view(ansel)).not.toHaveProperty("players");
    expect(view(ansel)?.counts.players).toBe(7);

    // Nobody hears of a single one who comes, and the newcomer's view has no names either.
    const edda = test.connect("Edda");
    const { pushes = [] } = test.appliedEvents.at(-1) ?? {};
    expect(pushes).toEqual([]);
    expect(view(edda)).not.toHaveProperty("players");

    // Well below the limit of six, not just below.
    for (const player of players.slice(3)) test.run({ do: "player.leave", player });
    test.pass(1_000);
    expect(Object.keys(view(ansel)?.players ?? {})).toHaveLength(4);
    expect(view(ansel)).toEqual(lobbyView(test.harbor.state, "quayside"));
  });
});
