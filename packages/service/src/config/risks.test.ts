import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";
import { risksOf } from "./risks.ts";
import { Config } from "./schema.ts";

afterEach(endAll);

const config = (more: object) => testConfig("good", (one) => Config.parse({ ...one, ...more }));
const listen = { host: "0.0.0.0", port: 0 };
const key = { access: "key" };
const names = (more: object, isRoot = false) => risksOf(config(more), { isRoot }).map(({ name }) => name);

describe("what is refused at the start", () => {
  it.each<[what: string, more: object, isRoot: boolean, risks: string[]]>([
    ["a demo on this computer", {}, true, []],
    ["a service behind a proxy on this computer", { operators: key }, false, []],
    ["a service for others without TLS", { operators: key, listen }, false, ["no-tls"]],
    [
      "one behind a proxy elsewhere",
      { operators: key, listen: { ...listen, trustedProxies: ["10.0.0.1"] } },
      false,
      [],
    ],
    [
      "one with TLS",
      { operators: key, listen: { ...listen, url: "https://x.example", tls: { certFile: "a", keyFile: "b" } } },
      false,
      [],
    ],
    ["one for others as root", { operators: key, listen }, true, ["no-tls", "root", "root-instances"]],
    ["instances as root", { operators: key }, true, ["root-instances"]],
    ["instances as a user of their own", { operators: key, machines: { here: { runAs: "nobody" } } }, true, []],
    [
      "one that tries any address, with places for one address alone",
      {
        operators: key,
        listen,
        travel: { probe: "any" },
        players: { builds: ["game-1"], limit: 50, perAddress: { connections: 50 } },
      },
      false,
      ["no-tls", "per-address", "probe-any"],
    ],
  ])("%s", (_what, more, isRoot, risks) => {
    expect(names(more, isRoot)).toEqual(risks);
  });

  it("says each risk with what to set, and starts when all of them are accepted by name", async () => {
    const risky = config({ operators: key, listen });
    await expect(startTestService(risky, { acceptRisks: ["root", "root-instances"] })).rejects.toMatchObject({
      code: "start-refused",
      message: expect.stringMatching(/no-tls: .*set listen.tls, or list your proxy.*--accept-risk no-tls/),
    });
    await startTestService(risky, { acceptRisks: ["no-tls", "root", "root-instances"] });
  });
});
