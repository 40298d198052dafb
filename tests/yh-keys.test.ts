import { mkdirSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, temporaryFolder, testConfig } from "../packages/service/src/testing/test-service.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

describe("a service whose operators need a key", () => {
  const home = process.env["XDG_STATE_HOME"];
  afterEach(() => {
    if (home === undefined) delete process.env["XDG_STATE_HOME"];
    else process.env["XDG_STATE_HOME"] = home;
  });

  it("keeps the first in its data folder, where yh of the same user finds it; keys made with it have roles", async () => {
    process.env["XDG_STATE_HOME"] = temporaryFolder();
    const service = await startTestService(
      testConfig("good", (one) => ({ ...one, operators: { ...one.operators, access: "key" } })),
    );
    const url = ["--url", service.url];
    const file = join(service.data, "operator.key");
    expect(statSync(file).mode & 0o777).toBe(0o600);
    expect(await runYh(["status", ...url])).toMatchObject({ code: 0 });
    const made = JSON.parse((await runYh(["key", "create", "night watch", "--role", "look", "--json", ...url])).out);
    expect(made.secret).toMatch(/^yhk_/);
    const list = await runYh(["key", "list", ...url]);
    expect(list.out).toMatch(/night watch\s+look\s+valid/);
    expect(list.out).not.toContain(made.secret);
    const own = ["--token", made.secret, ...url];
    expect(await runYh(["room", "list", ...own])).toMatchObject({ code: 0 });
    expect(await runYh(["key", "list", ...own])).toMatchObject({
      code: 5,
      err: expect.stringContaining("has the role look; this needs administer"),
    });
    expect(await runYh(["key", "rotate", made.key.id, "--overlap", "0", ...url])).toMatchObject({ code: 0 });
    expect(await runYh(["room", "list", ...own])).toMatchObject({ code: 5 });
    expect((await runYh(["key", "revoke", made.key.id, ...url])).out).toContain("is revoked");

    // Somebody else's file, as far as that can be tried by one user: it is named, and is not there.
    process.env["XDG_STATE_HOME"] = temporaryFolder();
    expect(await runYh(["status", ...url])).toMatchObject({ code: 5, err: expect.stringContaining("needs a key") });
    mkdirSync(join(process.env["XDG_STATE_HOME"] ?? "", "yellow-harbor"));
    writeFileSync(
      join(process.env["XDG_STATE_HOME"] ?? "", "yellow-harbor", `port-${service.port}`),
      "/nowhere/operator.key\n",
    );
    expect(await runYh(["status", ...url])).toMatchObject({
      code: 5,
      err: expect.stringContaining("/nowhere/operator.key, which you may not read"),
    });
  });
});
