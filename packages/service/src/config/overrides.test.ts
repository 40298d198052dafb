import { describe, expect, it } from "vitest";
import { TEST_CONFIG } from "../testing/test-service.ts";
import { parseConfig } from "./load.ts";
import { configVariables, overridesFrom, variableOf } from "./overrides.ts";
import type { Override } from "./yaml-file.ts";

function overrides(environment: Record<string, string>, settings: readonly string[] = []): readonly Override[] {
  const found = overridesFrom(environment, settings);
  if ("fault" in found) throw new Error(found.fault);
  return found.overrides;
}

describe("values in the place of those in the file", () => {
  it("come from variables and flags, the flags last, and are of the kind that the file would have", () => {
    const environment = {
      YH_PLAYERS_LIMIT: "77",
      YH_PLAYERS_BUILDS: "[a, b]",
      YH_INSTANCE_RELAY_ENABLED: "true",
      YH_LISTEN_HOST: "127.0.0.3",
      // What yh reads for itself, and what is of others, is none of these.
      YH_URL: "http://127.0.0.1:1",
      HOME: "/root",
    };
    const found = overrides(environment, ["players.limit=78", "pools.sluice.max=40"]);
    const read = parseConfig(TEST_CONFIG(), found);
    expect(read).toMatchObject({
      ok: true,
      config: {
        players: { limit: 78, builds: ["a", "b"], graceMs: 3_000 },
        instanceRelay: { enabled: true },
        listen: { host: "127.0.0.3", port: 0 },
        pools: { sluice: { max: 40 } },
      },
    });
  });

  it("that do not fit are faults with the name of the variable or flag", () => {
    const found = overrides({ YH_PLAYERS_LIMIT: "many" }, ["pools.sluice.mx=4", "lobbies.quayside.roomKinds=[others]"]);
    const read = parseConfig(TEST_CONFIG(), found);
    if (read.ok) throw new Error("it was taken");
    expect(read.faults.map(({ from, path, line }) => ({ from, path, line }))).toEqual(
      expect.arrayContaining([
        { from: "YH_PLAYERS_LIMIT", path: "players.limit", line: 0 },
        { from: "--set pools.sluice.mx", path: "pools.sluice.mx", line: 0 },
      ]),
    );
    const [unknown] = readFaults(overrides({}, ["lobbies.quayside.roomKinds=[others]"]));
    expect(unknown).toMatchObject({ from: "--set lobbies.quayside.roomKinds" });
  });

  it("are refused when they name nothing, with the nearest that there is", () => {
    expect(overridesFrom({ YH_PLAYER_LIMIT: "7" })).toEqual({
      fault: expect.stringContaining("did you mean YH_PLAYERS_LIMIT?"),
    });
    expect(overridesFrom({}, ["players.limit"])).toEqual({ fault: expect.stringContaining("give PATH=VALUE") });
    expect(overridesFrom({}, ["players..limit=3"])).toEqual({ fault: expect.stringContaining("is no setting") });
  });

  it("have a variable of their own each", () => {
    const paths = [...configVariables().values()];
    expect(paths.length).toBeGreaterThan(60);
    expect(new Set(paths.map(variableOf)).size).toBe(paths.length);
    expect(configVariables().get("YH_OPERATORS_SESSIONS_IDLE_HOURS")).toEqual(["operators", "sessions", "idleHours"]);
  });
});

function readFaults(found: readonly Override[]) {
  const read = parseConfig(TEST_CONFIG(), found);
  return read.ok ? [] : read.faults;
}
