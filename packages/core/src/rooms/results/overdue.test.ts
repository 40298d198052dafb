import { describe, expect, it } from "vitest";
import { testRules } from "../../testing/rules.ts";
import { boardAll, bringUp, instanceOf, startedRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

/** A room that plays, of a kind whose runs may go on for a minute. */
function playing() {
  const rules = testRules();
  const crews = rules.roomKinds.get("crews");
  if (crews === undefined) throw new Error("no room kind");
  const roomKinds = new Map([...rules.roomKinds, ["crews", { ...crews, playMs: 60_000 }] as const]);
  const test = new TestHarbor({ ...rules, roomKinds });
  const players = [test.connect("Ansel"), test.connect("Brisa")];
  const room = startedRoom(test, "crews", players);
  bringUp(test, room);
  boardAll(test, room);
  expect(test.room(room).phase).toBe("playing");
  return { test, room, instance: instanceOf(test, room) };
}

describe("a run whose result never comes", () => {
  it("is void after its time: its room gathers again, and its instance is told that it need not go on", () => {
    const { test, room, instance } = playing();
    test.pass(59_999);
    expect(test.room(room).phase).toBe("playing");
    test.pass(1);
    expect(test.room(room)).toMatchObject({
      phase: "gathering",
      run: null,
      result: { void: true },
      setback: { code: "result-overdue", detail: "No result came within 1 minute; the run is void." },
    });
    expect(test.instance(instance).instructions.at(-1)).toMatchObject({ instruction: "end-match" });
  });

  it("is not counted on once the result is there", () => {
    const { test, room, instance } = playing();
    const run = test.room(room).run ?? "";
    test.ok({ do: "instance.report", instance, run, standings: [], note: undefined });
    test.pass(60_000);
    expect(test.room(room).setback).toBeNull();
    expect(test.kinds().filter((kind) => kind === "room.returned")).toEqual([]);
  });
});
