import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, temporaryFolder } from "../packages/service/src/testing/test-service.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

const TIDEWRIGHTS = join(import.meta.dirname, "../examples/tidewrights");
const lab = (name: string) => join(TIDEWRIGHTS, "lab", name);
const of = (what: string) => ["lab", what, "--config", join(TIDEWRIGHTS, "harbor.yaml"), "--queue", "crews"];
const traffic = ["--tickets", lab("evening.jsonl")];
const vary = ["--vary", "choose.allowance=x0.9,x1.1,x1.5", "--rules", lab("by-price.yaml")];

interface Swept {
  readonly tried: readonly { readonly name: string; readonly searchS: { readonly p90: number } }[];
  readonly front: readonly string[];
  readonly advice: { readonly atSameWait?: string; readonly text: readonly string[]; readonly change?: object };
}

describe("yh lab sweep", () => {
  it("tries every value, marks the best choices, and writes what differs so that it can be used", async () => {
    const [take, report] = ["take.yaml", "sweep.html"].map((name) => join(temporaryFolder(), name)) as [string, string];
    const ran = await runYh([...of("sweep"), ...traffic, ...vary, "--take", take, "--report", report, "--json"]);
    expect(ran).toMatchObject({ code: 0, err: expect.stringContaining("4 of 4: by-price, choose.allowance x1.5") });
    const swept = JSON.parse(ran.out) as Swept;
    expect(swept.tried.map(({ name }) => name)).toEqual([
      "as configured",
      "by-price, choose.allowance x0.9",
      "by-price, choose.allowance x1.1",
      "by-price, choose.allowance x1.5",
    ]);
    expect(readFileSync(report, "utf8")).toContain(swept.advice.text[0]);
    const again = await runYh([...of("queue"), ...traffic, "--rules", take, "--json"]);
    const { rules } = JSON.parse(again.out) as { rules: readonly { readonly searchS: { readonly p90: number } }[] };
    const best = swept.tried.find(({ name }) => name === swept.advice.atSameWait);
    expect(best).toBeDefined();
    expect(rules[1]?.searchS).toEqual(best?.searchS);
    expect((await runYh([...of("sweep"), ...traffic, ...vary])).out).toContain("To take it over:\nqueues:\n  crews:");
  });

  it.each([
    [["--vary", "closeness.0.gap"], "is none; give a path and values"],
    [["--vary", "closeness.7.gap=x2"], "The rules have no closeness.7.gap"],
    [["--vary", "choose.by=x2"], "which x2 cannot change"],
    [["--vary", "passEveryMs=0"], "With passEveryMs 0 the rules cannot be used: passEveryMs"],
    [["--vary", `passEveryMs=${Array.from({ length: 501 }, (_, n) => 500 + n).join()}`], "try 500 at most"],
  ])("refuses %s with what to do", async (args, said) => {
    const take = join(temporaryFolder(), "take.yaml");
    const { code, err } = await runYh([...of("sweep"), ...traffic, ...args, "--take", take]);
    expect(err).toContain(said);
    expect(code).not.toBe(0);
    expect(existsSync(take)).toBe(false);
  });
});

describe("yh lab queue", () => {
  it("plays several days under conditions, and refuses conditions that are none", async () => {
    const days = [...traffic, ...traffic, "--conditions", lab("conditions.yaml")];
    const { out } = await runYh([...of("queue"), ...days]);
    expect(out).toMatch(/passes with nowhere to play +\d/);
    expect(out).toMatch(/matches not confirmed by all +\d/);
    expect(await runYh([...of("queue"), ...traffic, "--conditions", lab("machines.yaml")])).toMatchObject({
      code: 7,
      err: expect.stringContaining("is no description of conditions"),
    });
  });
});
