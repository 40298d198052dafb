import { expect, it } from "vitest";
import { type InTwoPlaces, TwoPlaces } from "./two-places.ts";

function watched() {
  let now = 1_000_000;
  const notes: InTwoPlaces[] = [];
  const places = new TwoPlaces(
    (found) => notes.push(found),
    () => now,
  );
  const seen = (...froms: string[]) => {
    for (const from of froms) {
      places.seen("i_1", from);
      now += 1_000;
    }
  };
  return { places, notes, seen, pass: (ms: number) => (now += ms) };
}

it("notices a key that is used from two addresses in turns, once in ten minutes", () => {
  const { places, notes, seen, pass } = watched();
  seen("192.0.2.1", "192.0.2.1", "198.51.100.9", "192.0.2.1", "198.51.100.9", "192.0.2.1");
  expect(notes).toEqual([{ holder: "i_1", from: ["198.51.100.9", "192.0.2.1"], atMs: 1_003_000 }]);
  pass(600_000);
  seen("192.0.2.1", "198.51.100.9", "192.0.2.1");
  expect([places.count, notes.length]).toEqual([2, 2]);
});

it.each<[what: string, froms: string[]]>([
  ["stays where it is", ["192.0.2.1", "192.0.2.1"]],
  ["moves", ["192.0.2.1", "198.51.100.9", "198.51.100.9"]],
  ["moves on", ["192.0.2.1", "198.51.100.9", "203.0.113.5"]],
  ["uses two addresses of one network", ["2001:db8:0:7::1", "2001:db8:0:7::2", "2001:db8:0:7::1"]],
])("notices nothing where its holder %s", (_what, froms) => {
  const { notes, seen } = watched();
  seen(...froms);
  expect(notes).toEqual([]);
});

it("takes one that is back after a minute for one that moved", () => {
  const { notes, seen, pass } = watched();
  seen("192.0.2.1", "198.51.100.9");
  pass(60_000);
  seen("192.0.2.1");
  expect(notes).toEqual([]);
});

it("forgets the oldest of many", () => {
  const { places, notes } = watched();
  places.seen("first", "192.0.2.1");
  for (let n = 0; n < 10_000; n++) places.seen(`i_${n}`, "192.0.2.1");
  places.seen("first", "198.51.100.9");
  places.seen("first", "192.0.2.1");
  expect(notes).toEqual([]);
});
