import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { testRules } from "../testing/rules.ts";
import { boardAll, instanceOf } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import type { HarborEvent } from "./event.ts";
import { Harbor } from "./harbor.ts";
import { faultsOf } from "./soundness.ts";

const file = (name: string) => readFileSync(new URL(`../testing/former/${name}`, import.meta.url), "utf8");
const journalOf = (version: number) =>
  JSON.parse(file(`journal-${version}.json`)) as { event: HarborEvent; at: number }[];

/** One room that plays and one that boards, as a service wrote them then: as a snapshot, and as a journal. */
const written = (version: number) =>
  [
    ["a snapshot", () => Harbor.fromSnapshot(testRules(), file(`snapshot-${version}.json`))],
    [
      "a journal",
      () => {
        const harbor = new Harbor(testRules());
        for (const { event, at } of journalOf(version)) harbor.replay(event, at);
        return harbor;
      },
    ],
  ] as const;

const all = [
  ...written(6).map(([what, read]) => [`${what} from before there was more than one destination`, 6, read] as const),
  ...written(7).map(([what, read]) => [`${what} from when an instance ran one match for one room`, 7, read] as const),
];

describe.each(all)("%s", (_what, version, read) => {
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
    Object.assign(test, { harbor, now: journalOf(version).at(-1)?.at ?? 0 });
    boardAll(test, travelling?.id ?? "");
    expect(test.room(travelling?.id ?? "")).toMatchObject({ phase: "playing" });
    // Its instances are those of a version like any other: the match ends, and the room may go on to the next.
    const instance = instanceOf(test, playing?.id ?? "");
    expect(test.instance(instance)).toMatchObject({ version: "1", machine: "here", capacity: { rooms: 1 } });
    test.ok({ do: "instance.report", instance, run: playing?.run ?? "", standings: [], note: undefined });
    expect(faultsOf(test.harbor.state)).toEqual([]);
  });
});

it.each([6, 7])("snapshot and journal of version %i are the same harbor today", (version) => {
  const [one, other] = written(version).map(([, read]) => read()?.view());
  expect(one).toEqual(other);
});
