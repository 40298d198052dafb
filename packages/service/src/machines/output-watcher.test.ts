import { appendFileSync, copyFileSync, mkdtempSync, rmSync, truncateSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { BuildSpec } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { OutputAwayError } from "./driver.ts";
import { outputOf } from "./output-file.ts";
import { type Lines, linesSince, OutputWatcher, outputEventIn, patternsOf } from "./output-watcher.ts";
import { patternFaults } from "./patterns.ts";

const spec = BuildSpec.parse({
  command: "server",
  ready: { line: "^listening on \\d+$" },
  watch: {
    joined: "^(?<name>.+) joined$",
    left: "^place (?<place>\\d+) left$",
    score: "^(?<name>.+): (?<score>.+)$",
    over: "over",
  },
});
const patterns = patternsOf(spec);

const folders: string[] = [];
afterEach(() => {
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true });
});

function newFile(text: string): string {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-watch-"));
  folders.push(folder);
  const file = join(folder, "output.log");
  writeFileSync(file, text);
  return file;
}

describe("a line of output", () => {
  it.each([
    ["listening on 7500", { what: "ready" }],
    ["Jón of the Quay joined", { what: "joined", who: { by: "name", text: "Jón of the Quay" } }],
    ["place 3 left", { what: "left", who: { by: "place", text: "3" } }],
    ["the match is over", { what: "over" }],
    ["Ansel: 12", { what: "score", who: { by: "name", text: "Ansel" }, score: 12 }],
    ["Ansel: -0.5", { what: "score", who: { by: "name", text: "Ansel" }, score: -0.5 }],
    ["Ansel: many", undefined],
    ["Ansel: Infinity", undefined],
    ["a gull cries", undefined],
    ["", undefined],
  ])("%s tells what it says", (line, outputRead) => {
    expect(outputEventIn(line, patterns)).toEqual(outputRead);
  });

  it("is looked at no further than so many characters: what is printed may be anything", () => {
    expect(outputEventIn(`${"a".repeat(5_000)} joined`, patterns)).toBeUndefined();
  });
});

describe("output that is watched", () => {
  const since = (file: string, from: number) => linesSince(outputOf(file), "out", from, patterns);

  it("gives whole lines once, and the rest of a line when it is whole", async () => {
    const file = newFile("listening on 7500\r\nAnsel jo");
    const first = await since(file, 0);
    expect(first).toEqual({ stream: "out", upTo: 19, anew: false, said: [{ what: "ready" }] });
    expect(await since(file, 19)).toBeUndefined();
    appendFileSync(file, "ined\n");
    expect(await since(file, 19)).toMatchObject({ upTo: 32, said: [{ what: "joined", who: { text: "Ansel" } }] });
  });

  it("is read on across a file that was put aside: first what was left of it", async () => {
    const file = newFile("Ansel joined\n");
    const { upTo = 0 } = (await since(file, 0)) ?? {};
    appendFileSync(file, "Brisa joined\n");
    copyFileSync(file, `${file}.1`);
    truncateSync(file, 0);
    appendFileSync(file, "over\n");
    expect(await since(file, upTo)).toMatchObject({
      upTo: 5,
      anew: true,
      said: [{ what: "joined", who: { text: "Brisa" } }, { what: "over" }],
    });
  });

  it("is read in next to no time, whatever is printed and however its pattern was written", () => {
    const watched = patternsOf(
      BuildSpec.parse({ command: "x", ready: "port", watch: { joined: "^(?<name>(\\w+\\s?)+) joined$" } }),
    );
    expect(outputEventIn("Ansel of the Quay joined", watched)).toMatchObject({ who: { text: "Ansel of the Quay" } });
    // A backtracking engine would try every way of cutting this into words: 2 to the power of 4,000 of them.
    expect(outputEventIn(`${"a".repeat(4_000)} joine`, watched)).toBeUndefined();
  });

  it("may not have patterns that would need more than one look at each character", () => {
    const spec = BuildSpec.parse({
      command: "x",
      ready: { line: "up(?= now)" },
      watch: { joined: "(?<name>.+) joined" },
    });
    expect(patternFaults(spec)).toMatchObject([
      { path: ["ready", "line"], message: expect.stringContaining("linear time") },
    ]);
  });

  it("is let be while its machine is away, and read from the same place when it is back", async () => {
    const file = newFile("Ansel joined\n");
    let isAway = true;
    const outputRead: Lines[] = [];
    const there = outputOf(file);
    const watcher = new OutputWatcher({
      watched: () => [{ instance: "i_000000000001", spec, outputRead: { out: 0, err: 0 } }],
      output: (_instance, stream) => ({
        size: async (part) => {
          if (isAway) throw new OutputAwayError();
          return stream === "out" ? there.size(part) : 0;
        },
        read: there.read,
      }),
      hear: async (_instance, lines) => void outputRead.push(lines),
      log: { error: () => undefined },
    });
    watcher.close();
    await watcher.look();
    expect(outputRead).toEqual([]);
    isAway = false;
    await watcher.look();
    expect(outputRead[0]).toMatchObject({ upTo: 13, said: [{ what: "joined" }] });
  });
});
