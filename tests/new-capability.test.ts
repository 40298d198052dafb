import { spawnSync } from "node:child_process";
import { cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { testRules } from "../packages/core/src/testing/rules.ts";
import { ROOT } from "./imports.ts";

const CORE = join(ROOT, "packages/core");

// A copy of core beside it, so that what it imports is found.
let copy: string;
beforeAll(() => {
  copy = mkdtempSync(join(CORE, ".with-tide-bell-"));
  cpSync(join(CORE, "src"), join(copy, "src"), {
    recursive: true,
    filter: (path) => !path.endsWith(".test.ts") && !path.endsWith("/testing"),
  });
  // One folder.
  cpSync(join(ROOT, "tests/tide-bell"), join(copy, "src/bells"), { recursive: true });
  // One row in the register, with its import.
  const register = join(copy, "src/harbor/capabilities.ts");
  const text = readFileSync(register, "utf8");
  const withRow = text
    .replace("import { builds }", 'import { bells } from "../bells/index.ts";\nimport { builds }')
    .replace("  planner,\n];", "  planner,\n  bells,\n];");
  expect(withRow.split("\n").length).toBe(text.split("\n").length + 2);
  writeFileSync(register, withRow);
});
afterAll(() => rmSync(copy, { recursive: true, force: true }));

describe("a copy beside what is built", () => {
  it("does not make that look stale, so that nothing is built anew under those that run from it", () => {
    const hash = () => {
      const script = `import("${join(ROOT, "tools/prepare.mjs")}").then(({ hashOf }) => console.log(hashOf(["packages/core"])))`;
      return spawnSync(process.execPath, ["-e", script], { cwd: ROOT, encoding: "utf8" }).stdout;
    };
    const before = hash();
    expect(before).toMatch(/^[0-9a-f]{64}\n$/);
    writeFileSync(join(copy, "src/another.ts"), "export {};\n");
    expect(hash()).toBe(before);
    rmSync(join(copy, "src/another.ts"));
  });
});

describe("a capability that is added to core", () => {
  it("costs its folder and one row: the whole of core compiles with it", () => {
    const config = {
      extends: "../../../tsconfig.base.json",
      compilerOptions: { noEmit: true, composite: false, incremental: false, allowImportingTsExtensions: true },
      include: ["src"],
      references: [{ path: "../../protocol" }],
    };
    writeFileSync(join(copy, "tsconfig.json"), JSON.stringify(config));
    const tsc = join(ROOT, "node_modules/.bin/tsc");
    const { stdout, status } = spawnSync(tsc, ["-p", copy, "--pretty", "false"], { cwd: ROOT, encoding: "utf8" });
    expect(stdout).toBe("");
    expect(status).toBe(0);
  });

  it("is decided, described, remembered, replayed and found again in a snapshot", async () => {
    const { Harbor, invariantViolations } = await import(pathToFileURL(join(copy, "src/index.ts")).href);
    const rules = testRules();
    const harbor = new Harbor(rules);
    const recorded: { event: object; at: number; text: string | undefined }[] = [];
    let [now, stamps] = [1_000_000, 0];
    const stamp = () => ({ at: now, entropy: [++stamps, 7, 11, 13] });
    const hear = (applied: { event: object }, at: number) =>
      recorded.push({ event: applied.event, at, text: harbor.describe(applied, at) });
    const run = (command: object) => harbor.execute(command, stamp(), hear);

    run({ do: "harbor.found" });
    const enter = (name: string): string =>
      run({ do: "player.connect", name, build: "game-1", lobby: undefined, connection: 1 }).reply.player.id;
    const [ansel, brisa] = [enter("Ansel"), enter("Brisa")];
    const { room } = run({ do: "room.open", player: ansel, args: {} }).reply;
    run({ do: "room.join", player: brisa, args: { room: room.id } });

    expect(run({ do: "bell.ring", player: brisa }).refused.code).toBe("not-host");
    expect(run({ do: "bell.ring", player: ansel }).reply).toEqual({ untilMs: now + 10_000 });
    expect(recorded.at(-1)?.text).toBe(`Ansel rings the tide bell of room ${room.code}.`);
    expect(run({ do: "bell.ring", player: ansel }).refused.code).toBe("wrong-phase");
    expect(invariantViolations(harbor.state)).toEqual([]);

    const kept = Harbor.fromSnapshot(rules, harbor.snapshot());
    expect(kept.state.bells).toEqual(harbor.state.bells);
    const again = new Harbor(rules);
    for (const { event, at } of recorded) again.replay(event, at);
    expect(again.state.bells).toEqual(harbor.state.bells);

    now += 10_000;
    while (harbor.advance(stamp(), hear));
    expect(harbor.state.bells.byRoom.size).toBe(0);
    expect(run({ do: "bell.ring", player: ansel }).refused).toBeUndefined();
  });
});
