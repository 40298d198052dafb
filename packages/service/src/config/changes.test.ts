import { describe, expect, it } from "vitest";
import { testConfig } from "../testing/test-service.ts";
import { changesBetween } from "./changes.ts";
import { Config } from "./schema.ts";

const base = testConfig();
const changed = (change: (config: typeof base) => object) =>
  changesBetween(base, Config.parse({ ...base, ...change(base) }));

describe("what another configuration changes", () => {
  it("is named at the deepest place, with both values, and when it can be taken", () => {
    const { changes, next } = changed(({ players, lobbies }) => ({
      players: { ...players, limit: 9, silenceMs: 9_000 },
      lobbies: { ...lobbies, pier: { title: "Pier", roomKinds: ["crews"] } },
    }));
    expect(changes).toEqual([
      { path: "players.limit", before: 10_000, after: 9, takes: "at-once" },
      { path: "players.silenceMs", before: 8_000, after: 9_000, takes: "restart" },
      { path: "lobbies.pier", after: expect.objectContaining({ title: "Pier" }), takes: "at-once" },
    ]);
    // What needs a restart stays as it is.
    expect(next.players).toMatchObject({ limit: 9, silenceMs: 8_000 });
    expect(Object.keys(next.lobbies)).toEqual(["quayside", "pier"]);
    expect(base.players.limit).toBe(10_000);
  });

  it("takes lobbies and pools away with a restart alone: somebody may be in them", () => {
    const { changes, next } = changed(({ lobbies, pools, levels }) => ({
      lobbies: { pier: lobbies["quayside"] },
      pools: { others: pools["sluice"] },
      levels: { "brine-gate": { ...levels["brine-gate"], pool: "others" } },
    }));
    expect(changes.map(({ path, takes }) => [path, takes])).toEqual([
      ["lobbies.quayside", "restart"],
      ["lobbies.pier", "at-once"],
      ["levels.brine-gate.pool", "at-once"],
      ["pools.sluice", "restart"],
      ["pools.others", "at-once"],
    ]);
    expect(Object.keys(next.pools)).toEqual(["sluice", "others"]);
  });

  it("takes new machines of agents at once, and sizes of machines; what runs a process here is taken at a restart", () => {
    const { changes, next } = changed(({ machines }) => ({
      machines: {
        here: { ...machines["here"], max: 5, runAs: "game" },
        east: { driver: "agent" },
        sim: { driver: "simulated" },
      },
      machineGroups: { spot: { max: 4 } },
    }));
    expect(changes.map(({ path, takes }) => [path, takes])).toEqual([
      ["machines.here.max", "at-once"],
      ["machines.here.runAs", "restart"],
      ["machines.east", "at-once"],
      ["machines.sim", "restart"],
      ["machineGroups.spot", "at-once"],
    ]);
    expect(Object.keys(next.machines)).toEqual(["here", "east"]);
  });

  it("is nothing when nothing differs, and says when one part does not fit without the other", () => {
    expect(changed(() => ({}))).toMatchObject({ changes: [], needsRestart: undefined });
    const { needsRestart } = changed(({ machines, pools }) => ({
      machines: { ...machines, far: { driver: "simulated" } },
      pools: { sluice: { ...pools["sluice"], machines: ["far"] } },
    }));
    expect(needsRestart).toMatch(/^pools\.sluice\.machines.*far/);
  });
});
