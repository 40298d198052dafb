import type { PoolView, QueueSummary, RoomView, StatusView } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { frameOf } from "./frame.ts";
import type { Reading } from "./reading.ts";
import { FIRST_VIEW, type Key, press, rowsOf, type View } from "./view.ts";

const room = (code: string, phase: string, members: number, openedAtMs: number, name = `${code}'s crew`) =>
  ({
    id: `r_${code.toLowerCase().padEnd(12, "0")}`,
    code,
    name,
    phase,
    lobby: "quayside",
    kind: "crews",
    capacity: 4,
    openedAtMs,
    missing: [{ code: "level-not-picked", text: "the host has not picked a level" }],
    members: Object.fromEntries(
      Array.from({ length: members }, (_, n) => [
        `p_${n}`,
        { name: `Player ${n}`, presence: n === 0 ? "away" : "here" },
      ]),
    ),
  }) as unknown as RoomView;

const reading: Reading = {
  atMs: 100_000,
  status: {
    harbor: "north",
    version: "0.2.0",
    upMs: 60_000,
    players: { here: 5, away: 1, limit: 100 },
    rooms: { gathering: 2, playing: 1, closed: 0 },
    instances: { open: 0 },
    process: { memoryBytes: 2 ** 27, loopDelayMs: 1.5 },
    journal: { seq: 12, waiting: 0 },
    alerts: [],
  } as unknown as StatusView,
  rooms: [
    room("K7RDM", "playing", 4, 10_000),
    room("B2XQP", "gathering", 1, 50_000),
    room("ZZZZZ", "gathering", 2, 5_000),
  ],
  moreRooms: false,
  queues: [
    {
      id: "crews",
      title: "Crews",
      lobby: "quayside",
      mode: "paused",
      players: 3,
      tickets: 2,
      confirming: 0,
      matches: 9,
      oldestSinceMs: 70_000,
    },
  ] as unknown as QueueSummary[],
  pools: [
    {
      id: "sluice",
      build: "breakwater",
      mode: "open",
      held: 3,
      max: 20,
      idle: 1,
      coming: 0,
      draining: 0,
      failures: 3,
      plan: { wanted: 4 },
    },
  ] as unknown as PoolView[],
};

const size = { width: 100, height: 24 };
const codes = (view: View) => rowsOf(reading, view).map((one) => (one as RoomView).code);
const after = (keys: readonly (string | Key)[], view: View = FIRST_VIEW) =>
  keys.reduce<View>(
    (now, key) =>
      press(now, typeof key === "string" ? { sequence: key, name: key } : key, rowsOf(reading, now).length).view,
    view,
  );

describe("the live view", () => {
  it("fills the screen exactly, however much there is to say", () => {
    for (const height of [8, 12, 24, 60]) {
      const lines = frameOf(reading, FIRST_VIEW, { width: 60, height });
      expect(lines.length).toBeLessThanOrEqual(Math.max(height, 11));
      expect(lines.every((line) => line.length <= 60 || line.includes("\u001b"))).toBe(true);
    }
    const text = frameOf(reading, FIRST_VIEW, size).join("\n");
    expect(text).toContain("5 here, 1 away, limit 100");
    expect(text).toContain("rooms      2 gathering, 1 playing");
    expect(text).toContain("instances  none");
    expect(text).toContain("all is well");
  });

  it("sorts by the column that is asked for, the longest first", () => {
    expect(codes(FIRST_VIEW)).toEqual(["ZZZZZ", "K7RDM", "B2XQP"]);
    expect(codes(after(["s"]))).toEqual(["B2XQP", "K7RDM", "ZZZZZ"]);
    expect(codes(after(["s", "s", "s"]))).toEqual(["K7RDM", "ZZZZZ", "B2XQP"]);
    const columns = Array.from({ length: 9 }, () => "s");
    expect(after(columns).sortedBy).toBe(0);
  });

  it("filters by what is typed, letter by letter, and forgets it on escape", () => {
    const typed = after(["/", "z", "Z"]);
    expect(typed).toMatchObject({ filter: "zZ", isTyping: true });
    expect(codes(typed)).toEqual(["ZZZZZ"]);
    // While something is typed no letter is a command.
    expect(after(["/", "q"]).filter).toBe("q");
    const kept = after([{ name: "backspace" }, { name: "return" }], typed);
    expect(kept).toMatchObject({ filter: "z", isTyping: false });
    expect(after([{ name: "escape" }], kept).filter).toBe("");
    expect(frameOf(reading, after(["/", "n", "o", "n", "e"]), size).join("\n")).toContain("Nothing fits the filter");
    // Members are found too.
    expect(codes(after(["/", ..."player 3"]))).toEqual(["K7RDM"]);
  });

  it("goes through the lists, and keeps to the rows that there are", () => {
    expect(after(["2"]).list).toBe("queues");
    expect(after(["3"]).list).toBe("pools");
    expect(after(["4"]).list).toBe("rooms");
    expect(after([{ name: "tab" }, { name: "tab" }, { name: "tab" }]).list).toBe("rooms");
    expect(after(Array.from({ length: 9 }, () => ({ name: "down" }))).chosen).toBe(2);
    expect(after([{ name: "down" }, { name: "up" }, { name: "up" }]).chosen).toBe(0);
    expect(frameOf(reading, after(["2"]), size).join("\n")).toMatch(/30 s +crews +paused +3 +2/);
    expect(frameOf(reading, after(["3"]), size).join("\n")).toMatch(
      /3 of 20 +sluice +planned +4 +1 +0 +0 +3 +breakwater/,
    );
  });

  it("looks deeper at what is chosen, goes back, and ends", () => {
    expect(press(FIRST_VIEW, { name: "return" }, 3).wish).toBe("look-deeper");
    expect(press(FIRST_VIEW, { name: "return" }, 0).wish).toBe("nothing");
    const deep: View = { ...FIRST_VIEW, detail: { id: "r_1", lines: ["It waits for Brisa to be ready. ".repeat(8)] } };
    const shown = frameOf(reading, deep, { width: 40, height: 24 });
    expect(shown.join(" ").replaceAll(/\s+/g, " ")).toContain("It waits for Brisa to be ready. It waits");
    expect(after([{ name: "escape" }], deep).detail).toBeUndefined();
    for (const view of [FIRST_VIEW, deep]) expect(press(view, { name: "q" }, 3).wish).toBe("quit");
    expect(press({ ...FIRST_VIEW, isTyping: true }, { name: "c", ctrl: true }, 3).wish).toBe("quit");
  });

  it("shows alerts with the most urgent first, and says when what it shows is not of now", () => {
    const alerts = Array.from({ length: 6 }, (_, n) => ({
      severity: n === 0 ? "page" : "look",
      text: `Alert ${n}.`,
      sinceMs: 40_000,
    }));
    const text = frameOf(
      { ...reading, status: { ...reading.status, alerts } as never },
      FIRST_VIEW,
      size,
      "not of now: it is gone",
    ).join("\n");
    expect(text).toMatch(/ALERT +Alert 0\. \(for 60 s\)/);
    expect(text).toContain("and 2 more: yh status");
    expect(text).toContain("not of now: it is gone");
  });

  it("lets nothing that a player has written reach the terminal", () => {
    const evil = { ...reading, rooms: [room("K7RDM", "playing", 1, 0, "a\u001b[2Jb\u202ec")] };
    const text = frameOf(evil, FIRST_VIEW, size).join("\n");
    for (const control of ["\u001b[2J", "\u202e"]) expect(text).not.toContain(control);
  });
});
