import { describe, expect, it } from "vitest";
import type { HarborEvent } from "../model/event.ts";
import { inTodaysForm, readEvent, type Upcasters, versionOf, writeEvent } from "./written-event.ts";

const said: HarborEvent = { kind: "player.lost", player: "p_1", untilMs: 5 };

/** Once it was called `until`, in seconds; then in milliseconds; then `untilMs`. */
const upcasters: Upcasters = {
  "player.lost": [
    (form) => {
      const { until, ...rest } = form as { until: number };
      return { ...rest, until: until * 1_000 };
    },
    (form) => {
      const { until, ...rest } = form as { until: number };
      return { ...rest, untilMs: until };
    },
  ],
};

describe("an event in a journal", () => {
  it("is read as it was written", () => {
    const written = writeEvent(said);
    expect(written).toMatchObject({ kind: "player.lost", version: versionOf("player.lost") });
    expect(readEvent(written)).toEqual(said);
  });

  it.each([
    [1, { kind: "player.lost", player: "p_1", until: 2 }, 2_000],
    [2, { kind: "player.lost", player: "p_1", until: 7 }, 7],
    [3, { kind: "player.lost", player: "p_1", untilMs: 9 }, 9],
  ])("comes from form %i to that of today, step by step", (version, form, untilMs) => {
    const event = inTodaysForm(form, { kind: "player.lost", version }, upcasters);
    expect(event).toEqual({ kind: "player.lost", player: "p_1", untilMs });
    expect(versionOf("player.lost", upcasters)).toBe(3);
  });

  it("is not read when a newer version wrote it", () => {
    expect(() => readEvent({ kind: "player.lost", version: 99, body: "{}" })).toThrow(/form 99, and .* knows 1/);
  });
});
