import { describe, expect, it } from "vitest";
import type { RoomView } from "./views.ts";
import { counted, waitsFor } from "./wording.ts";

const members = { p_1: { name: "Ansel" }, p_2: { name: "Brisa" } };
const room = (view: object) => ({ phase: "gathering", members, missing: [], ...view }) as unknown as RoomView;
const travel = (waitingFor: string[], brisaArrived: boolean) =>
  room({
    phase: "travelling",
    travel: { step: "boarding", waitingFor, travellers: { p_1: { arrived: true }, p_2: { arrived: brisaArrived } } },
  });

describe("what a room waits for", () => {
  it.each([
    ["somebody to start it", room({})],
    ["Brisa is not ready", room({ missing: [{ text: "Brisa is not ready" }] })],
    ["somebody to come in", room({ members: {} })],
    ["the countdown", room({ phase: "counting" })],
    ["an instance", room({ phase: "travelling", travel: { step: "preparing", by: "dedicated" } })],
    [
      "Ansel to run the world",
      room({ phase: "travelling", travel: { step: "preparing", by: "player-hosted", player: "p_1" } }),
    ],
    ["relaying", room({ phase: "travelling", travel: { step: "preparing", by: "relayed" } })],
    ["Brisa to arrive", travel(["p_2"], false)],
    ["its deadline: Brisa may still come", travel([], false)],
    ["the run to begin", travel([], true)],
    ["the result", room({ phase: "playing" })],
    ["the result to be seen", room({ phase: "results" })],
    ["nothing", room({ phase: "closed" })],
  ])("is never empty: %s", (words, view) => {
    expect(waitsFor(view)).toBe(words);
  });
});

describe("a number and its noun", () => {
  it.each([
    [1, "other ticket", "1 other ticket"],
    [2, "other ticket", "2 other tickets"],
    [3, "party", "3 parties"],
    [0, "match", "0 matches"],
  ])("go together: %i %s", (count, noun, words) => {
    expect(counted(count, noun)).toBe(words);
  });
});
