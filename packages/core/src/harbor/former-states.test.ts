import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { testRules } from "../testing/rules.ts";
import { boardAll } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import type { HarborEvent } from "./event.ts";
import { Harbor } from "./harbor.ts";
import { faultsOf } from "./soundness.ts";

const file = (name: string) => readFileSync(new URL(`../testing/former/${name}`, import.meta.url), "utf8");
const journal = JSON.parse(file("journal-6.json")) as { event: HarborEvent; at: number }[];

/** One room that plays and one that boards, as a service wrote them before there was more than one destination. */
const written = [
  ["a snapshot", () => Harbor.fromSnapshot(testRules(), file("snapshot-6.json"))],
  [
    "a journal",
    () => {
      const harbor = new Harbor(testRules());
      for (const { event, at } of journal) harbor.replay(event, at);
      return harbor;
    },
  ],
] as const;

describe.each(written)("%s from before there was more than one destination", (_what, read) => {
  it("is read as what it was, and gone on with", () => {
    const harbor = read();
    expect(harbor && faultsOf(harbor.state)).toEqual([]);
    const [playing, travelling] = [...(harbor?.state.rooms.byId.values() ?? [])];
    expect(playing).toMatchObject({ phase: "playing", destination: { by: "dedicated" }, ways: { onLoss: "end" } });
    expect([...(playing?.members.values() ?? [])].map(({ aboard }) => aboard)).toEqual([true, true]);
    const travel = harbor?.state.travels.byRun.get(travelling?.run ?? "");
    expect(travel).toMatchObject({ step: "boarding", options: ["dedicated"], destination: { by: "dedicated" } });
    expect([...(travel?.travellers.values() ?? [])].map(({ percent, arrived }) => [percent, arrived])).toEqual([
      [100, true],
      [0, false],
    ]);
    const test = new TestHarbor();
    Object.assign(test, { harbor, now: journal.at(-1)?.at ?? 0 });
    boardAll(test, travelling?.id ?? "");
    expect(test.room(travelling?.id ?? "")).toMatchObject({ phase: "playing" });
  });
});

it("snapshot and journal of then are the same harbor today", () => {
  const [one, other] = written.map(([, read]) => read()?.view());
  expect(one).toEqual(other);
});
