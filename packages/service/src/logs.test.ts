import { Writable } from "node:stream";
import pino from "pino";
import { describe, expect, it } from "vitest";
import { Log } from "./config/log.ts";
import { Logs } from "./logs.ts";

describe("the service's log", () => {
  it("has a level for each area, which can become another at any time", () => {
    const logs = new Logs(Log.parse({ level: "warn", areas: { players: "debug" } }), undefined);
    const levels = () => [logs.root.level, logs.of("players").level, logs.of("journal").level, logs.requests.level];
    expect(levels()).toEqual(["warn", "debug", "warn", "warn"]);
    logs.take(Log.parse({ areas: { journal: "error", operators: "trace" } }));
    expect(levels()).toEqual(["info", "info", "error", "trace"]);
    // Requests are too many to be told one by one where nobody asked for it.
    logs.take(Log.parse({}));
    expect(levels()).toEqual(["info", "info", "info", "warn"]);
  });

  it("that was given keeps its level, and says the area on each line", () => {
    let said = "";
    const out = new Writable({
      write: (chunk, _encoding, done) => {
        said += chunk;
        done();
      },
    });
    const logs = new Logs(Log.parse({ level: "silent" }), pino({ level: "info", base: undefined }, out));
    logs.of("webhooks").info("sent");
    logs.of("webhooks").debug("looked");
    expect(
      said
        .trim()
        .split("\n")
        .map((line) => JSON.parse(line)),
    ).toEqual([expect.objectContaining({ area: "webhooks", msg: "sent" })]);
  });
});
