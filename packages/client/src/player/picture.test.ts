import type { News, RoomView } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { applyNews } from "./picture.ts";

const room = { id: "r_1", revision: 4, phase: "gathering" } as RoomView;
const news = (revision: number, id = "r_1") =>
  ({
    frame: "news",
    scope: "room",
    id,
    revision,
    news: { kind: "room-closed" },
    patch: { phase: "playing" },
  }) as Extract<News, { scope: "room" }>;
const held = { lobby: undefined, room };

describe("news", () => {
  it("that follows the picture is applied", () => {
    expect(applyNews(held, news(5))).toMatchObject({
      outcome: "applied",
      picture: { room: { revision: 5, phase: "playing" } },
    });
  });
  it("that the picture holds already, or of another room, is passed over", () => {
    expect(applyNews(held, news(4))).toEqual({ outcome: "stale" });
    expect(applyNews(held, news(5, "r_2"))).toEqual({ outcome: "stale" });
    expect(applyNews({ lobby: undefined, room: undefined }, news(5))).toEqual({ outcome: "stale" });
  });
  it("that others must have come before is a gap", () => {
    expect(applyNews(held, news(6))).toEqual({ outcome: "gap" });
  });
});
