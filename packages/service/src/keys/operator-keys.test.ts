import { describe, expect, it } from "vitest";
import type { OperatorKeyRow } from "../journal/operator-store.ts";
import { OperatorKeys } from "./operator-keys.ts";

/** A place to keep keys, and a clock in hand. */
function keeper() {
  const rows = new Map<string, OperatorKeyRow>();
  const clock = { now: 1_000_000 };
  const open = () =>
    OperatorKeys.open(
      {
        operatorKeys: async () => [...rows.values()],
        putOperatorKey: async (row) => {
          rows.set(row.id, row);
        },
      },
      () => clock.now,
    );
  return { rows, clock, open };
}

describe("keys of operators", () => {
  it("let in whoever has the secret, of which only a hash is kept, also after a restart", async () => {
    const { rows, open } = keeper();
    const keys = await open();
    const { key, secret } = await keys.create("pipeline", "deploy");
    expect(keys.check(secret, "192.0.2.1")).toEqual({ id: key.id, name: "pipeline", role: "deploy" });
    expect(JSON.stringify([...rows.values()])).not.toContain(secret.slice(20));
    const again = await open();
    expect(again.check(secret, "192.0.2.1")?.id).toBe(key.id);
    expect(again.list()).toMatchObject([{ state: "valid", lastUsedAtMs: 1_000_000, lastUsedFrom: "192.0.2.1" }]);
  });

  it.each([
    ["nothing", () => ""],
    ["another secret", (secret: string) => `${secret.slice(0, -1)}${secret.endsWith("A") ? "B" : "A"}`],
    ["another id", (secret: string) => secret.replace(/_[a-z0-9]{12}_/, "_aaaaaaaaaaaa_")],
    ["its id alone", (secret: string) => secret.slice(0, 17)],
    ["more than it", (secret: string) => `${secret}A`],
  ])("let nobody in with %s", async (_what, shown) => {
    const keys = await keeper().open();
    const { secret } = await keys.create("pipeline", "deploy");
    expect(keys.check(shown(secret), "192.0.2.1")).toBeUndefined();
  });

  it("end at their time, and at once when they are revoked", async () => {
    const { clock, open } = keeper();
    const keys = await open();
    const [short, other] = [await keys.create("a day", "look", 1), await keys.create("other", "look")];
    clock.now += 86_399_999;
    expect(keys.check(short.secret, "::1")).toBeDefined();
    clock.now += 1;
    expect(keys.check(short.secret, "::1")).toBeUndefined();
    await keys.revoke(other.key.id);
    expect(keys.check(other.secret, "::1")).toBeUndefined();
    expect(keys.list().map(({ state }) => state)).toEqual(["ended", "revoked"]);
    expect(await keys.revoke("k_000000000000")).toBeUndefined();
  });

  it("are rotated with an overlap in which both work", async () => {
    const { clock, open } = keeper();
    const keys = await open();
    const old = await keys.create("pipeline", "deploy", 90);
    const next = await keys.rotate(old.key.id, 60_000);
    expect(next?.key).toMatchObject({ name: "pipeline", role: "deploy", endsAtMs: clock.now + 90 * 86_400_000 });
    expect(keys.check(old.secret, "::1")).toBeDefined();
    clock.now += 60_000;
    expect(keys.check(old.secret, "::1")).toBeUndefined();
    expect(keys.check(next?.secret ?? "", "::1")?.id).toBe(next?.key.id);
    expect(await keys.rotate(old.key.id, 60_000)).toBeUndefined();
  });
});
