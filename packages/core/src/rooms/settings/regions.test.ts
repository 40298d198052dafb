import type { MachineRules } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import type { HarborRules } from "../../model/rules.ts";
import { testMachine, testRules } from "../../testing/rules.ts";
import { bringUp, instanceOf, joinRoom, openRoom, startRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";
import { directoryPage } from "../directory/directory.ts";

const machine = (region: string, max = 5): MachineRules => testMachine({ region, max });

/** With machines in both regions, and hosts who may tell where they are. */
function rulesWith(machines: Readonly<Record<string, MachineRules>>): HarborRules {
  const rules = testRules();
  const pools = [...rules.pools].map(([id, pool]) => [id, { ...pool, machines: Object.keys(machines) }] as const);
  const kinds = [...rules.roomKinds].map(([id, kind]) => [id, { ...kind, hostEcho: id === "hosted" }] as const);
  return {
    ...rules,
    machines: new Map(Object.entries(machines)),
    machineGroups: new Map(),
    pools: new Map(pools),
    roomKinds: new Map(kinds),
  };
}

const started = (test: TestHarbor, region: string, names: readonly [string, string]): string => {
  const [host, other] = [test.connect(names[0]), test.connect(names[1])];
  const room = openRoom(test, host, { region });
  joinRoom(test, room, other);
  startRoom(test, room);
  return room;
};

describe("the region of a room", () => {
  it("is where its instance runs, also when one stands free elsewhere", () => {
    const test = new TestHarbor(rulesWith({ "north-1": machine("north-quay"), "south-1": machine("south-quay") }));
    const north = started(test, "north-quay", ["Ansel", "Brisa"]);
    const south = started(test, "south-quay", ["Corin", "Dovie"]);
    const regionOf = (room: string) => test.instance(instanceOf(test, room)).region;
    expect([regionOf(north), regionOf(south)]).toEqual(["north-quay", "south-quay"]);
    bringUp(test, north);
    expect(test.room(north).phase).toBe("travelling");
  });

  it("is no silent other one: where nothing can run there, the room hears why", () => {
    const test = new TestHarbor(rulesWith({ "south-1": machine("south-quay") }));
    const room = started(test, "north-quay", ["Ansel", "Brisa"]);
    expect(test.room(room)).toMatchObject({ phase: "gathering", setback: { code: "no-instance" } });
    expect(test.room(room).setback?.detail).toContain("north-quay");
  });

  it("is shown, searched by, and kept to by whoever wants any room of it", () => {
    const test = new TestHarbor(rulesWith({ "north-1": machine("north-quay") }));
    const [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [
      string,
      string,
      string,
    ];
    const room = openRoom(test, ansel, { region: "north-quay", capacity: 4 });
    const listed = (region: string) =>
      directoryPage(test.harbor.state, "quayside", { filter: { region }, sort: "newest", limit: 10 }).rooms;
    expect(listed("north-quay")).toMatchObject([{ id: room, region: "north-quay" }]);
    expect(listed("south-quay")).toEqual([]);
    const quick = (player: string, region: string) =>
      test.ok({ do: "room.quick-join", player, args: { region } }) as { opened: boolean; room: { region?: string } };
    expect(quick(brisa, "north-quay")).toMatchObject({ opened: false, room: { region: "north-quay" } });
    expect(quick(corin, "south-quay")).toMatchObject({ opened: true, room: { region: "south-quay" } });
    expect(
      test.refusal({ do: "room.quick-join", player: test.connect("Dovie"), args: { region: "west" } }),
    ).toMatchObject({
      code: "region-unknown",
      accepted: ["north-quay", "south-quay"],
    });
  });
});

describe("a host's echo", () => {
  it("is told while it is host, and to nobody once another is", () => {
    const test = new TestHarbor(rulesWith({ "north-1": machine("north-quay") }));
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    const room = openRoom(test, ansel, { kind: "hosted", capacity: 3 });
    joinRoom(test, room, brisa);
    const echoOf = () =>
      directoryPage(test.harbor.state, "quayside", { sort: "newest", limit: 10 }).rooms.find(({ id }) => id === room)
        ?.echo;
    const tell = (player: string, echo: string | null) => ({ do: "room.tell-echo", player, echo }) as const;
    test.ok(tell(ansel, "udp://203.0.113.7:7700"));
    expect(echoOf()).toBe("udp://203.0.113.7:7700");
    const events = test.journal.length;
    test.ok(tell(ansel, "udp://203.0.113.7:7700"));
    expect(test.kinds(events)).toEqual([]);
    expect(test.refusal(tell(brisa, "udp://203.0.113.8:1")).code).toBe("not-host");
    test.ok({ do: "room.hand-over", player: ansel, args: { to: brisa } });
    expect(echoOf()).toBeUndefined();
    test.ok(tell(brisa, "udp://203.0.113.8:1"));
    test.ok(tell(brisa, null));
    expect(echoOf()).toBeUndefined();
  });
});
