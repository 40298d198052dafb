import type { RoomView, Update } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { applyUpdate } from "./state.ts";

const room = { id: "r_1", revision: 4, phase: "gathering" } as RoomView;
const update = (revision: number, id = "r_1") =>
  ({
    frame: "update",
    scope: "room",
    id,
    revision,
    event: { kind: "room-closed" },
    patch: { phase: "playing" },
  }) as Extract<Update, { scope: "room" }>;
const held = { lobby: undefined, room };

describe("update", () => {
  it("that follows the state is applied", () => {
    expect(applyUpdate(held, update(5))).toMatchObject({
      outcome: "applied",
      state: { room: { revision: 5, phase: "playing" } },
    });
  });
  it("that the state holds already, or of another room, is passed over", () => {
    expect(applyUpdate(held, update(4))).toEqual({ outcome: "stale" });
    expect(applyUpdate(held, update(5, "r_2"))).toEqual({ outcome: "stale" });
    expect(applyUpdate({ lobby: undefined, room: undefined }, update(5))).toEqual({ outcome: "stale" });
  });
  it("that others must have come before is a gap", () => {
    expect(applyUpdate(held, update(6))).toEqual({ outcome: "gap" });
  });
});
