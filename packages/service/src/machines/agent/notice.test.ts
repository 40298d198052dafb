import { join } from "node:path";
import pino from "pino";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, temporaryFolder } from "../../testing/test-service.ts";
import { noticeOf, watchForNotice } from "./notice.ts";

afterEach(endAll);

const log = pino({ level: "silent" });

describe("the notice of a machine", () => {
  it.each([
    ["", { say: "notice", withinMs: 30_000 }],
    ["120", { say: "notice", withinMs: 120_000 }],
    ["90 the price has risen\nmore", { say: "notice", withinMs: 90_000, why: "the price has risen" }],
    ["soon", { say: "notice", withinMs: 30_000, why: "soon" }],
    ["99999", { say: "notice", withinMs: 86_400_000 }],
    [`5 ${"x".repeat(1_000)}`, { say: "notice", withinMs: 5_000, why: "x".repeat(300) }],
  ])("is read out of %j", (out, notice) => {
    expect(noticeOf(out)).toEqual(notice);
  });

  it("is asked for until the command exits with 0, and given once", async () => {
    const file = join(temporaryFolder(), "asked");
    // The third time it says so.
    const command = `echo x >> ${file}; test $(wc -l < ${file}) -ge 3 && echo 7`;
    const given: unknown[] = [];
    await new Promise<void>((resolve) => {
      const noticed = (notice: unknown) => {
        given.push(notice);
        resolve();
      };
      watchForNotice(command, { log, noticed, everyMs: 20 });
    });
    expect(given).toEqual([{ say: "notice", withinMs: 7_000 }]);
  });
});
