import { describe, expect, it } from "vitest";
import { TideMatch } from "./tide-match.ts";

const players = ["Ansel", "Brisa", "Corin"].map((name, place) => ({ id: `p_${place}`, name, place }));
const order = { room: "r_1", run: "u_1", level: "brine-gate", players };

describe("a match of Tidewrights", () => {
  it("waits for everybody who was promised a berth", () => {
    const match = new TideMatch(order);
    for (const { id } of players.slice(0, 2)) match.board(id);
    expect(match.everybodyIsAboard).toBe(false);
    match.board("p_2");
    expect(match.everybodyIsAboard).toBe(true);
  });

  it("lays stones for the crew of a player's place, and none that is no stone", () => {
    const match = new TideMatch(order);
    match.lay("p_0", 4);
    match.lay("p_2", 3);
    expect(match.lay("p_1", 9)).toEqual({ gulls: 7, terns: 9 });
    for (const stone of [0, 10, 1.5, "4", null, Number.NaN]) expect(match.lay("p_0", stone)).toBeUndefined();
    expect(match.lay("p_stranger", 4)).toBeUndefined();
    expect(match.finish()).toMatchObject({
      winner: "terns",
      walls: { gulls: 7, terns: 9 },
      note: "terns kept the tide out, 7 to 9",
    });
  });

  it("gives each player its crew's height, so that a crew shares a rank", () => {
    const match = new TideMatch(order);
    match.lay("p_0", 5);
    match.lay("p_1", 5);
    const { winner, standings } = match.finish();
    expect(winner).toBe("nobody");
    expect(standings.map(({ score }) => score)).toEqual([5, 5, 5]);
  });
});
