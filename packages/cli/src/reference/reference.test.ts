import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { describe, expect, it } from "vitest";
import { wholeProgram } from "../main.ts";
import { jsonShapes } from "./json-shapes.ts";
import { reference } from "./reference.ts";

const docs = (name: string) =>
  readFileSync(fileURLToPath(new URL(`../../../../docs/${name}`, import.meta.url)), "utf8");

describe("the page about yh", () => {
  it("is that of the commands (npm run docs makes it anew)", async () => {
    expect(docs("yh.md")).toBe(reference(await wholeProgram()));
  });

  it("names commands and schemas that there are", async () => {
    const { components } = JSON.parse(docs("openapi.json"));
    const page = reference(await wholeProgram());
    for (const [command, shape] of Object.entries(jsonShapes)) {
      expect({ command, isThere: page.includes(`## yh ${command}`) }).toEqual({ command, isThere: true });
      expect({ shape, isThere: shape in components.schemas }).toEqual({ shape, isThere: true });
    }
  });

  it("has a sentence for each command and each option", async () => {
    const page = reference(await wholeProgram());
    expect(page).not.toMatch(/\| {2}\|$/m);
    expect(page.match(/^## yh /gm)?.length).toBeGreaterThan(80);
    for (const [, about] of page.matchAll(/^## yh .+\n\n(.*)/gm)) expect(about?.length).toBeGreaterThan(10);
  });
});
