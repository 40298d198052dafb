import { readdirSync, readFileSync } from "node:fs";
import { playerAsks } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";

const folder = new URL(".", import.meta.url);
const sources = readdirSync(folder)
  .filter((name) => name.endsWith(".ts") && !name.endsWith(".test.ts"))
  .map((name) => readFileSync(new URL(name, folder), "utf8"))
  .join("\n");

describe("the players' client", () => {
  it.each(playerAsks)("has a method that asks %s", (ask) => {
    expect(sources).toMatch(new RegExp(`(?:\\.ask|#ask|\\.request)\\("${ask.replace(".", "\\.")}",`));
  });
});
