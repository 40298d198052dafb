import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { invariantViolations } from "../harbor/invariants.ts";
import { readSnapshot, writeSnapshot } from "../harbor/snapshot.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { networkKey, networksAround, networkText } from "./network.ts";

const hello = { do: "player.connect", name: "Ansel", build: "game-1", lobby: undefined, connection: 1 } as const;
const account = (id: string) => ({ account: id, roles: [], vouched: {} });
const set = { do: "ban.set", reason: "cheating", by: "night watch", forMs: 3_600_000 } as const;

describe("a ban of an account", () => {
  it("kicks its player, tells why, keeps it out until its end, and no other account", () => {
    const test = new TestHarbor();
    const { player } = test.ok({ ...hello, identity: account("game:1") });
    const ended = test.run({ ...set, subject: { account: "game:1" } });
    expect(ended.effects).toContainEqual({
      effect: "end-connection",
      player: player.id,
      code: "banned",
      detail: "This account is banned for another 1 h: cheating.",
    });
    expect(test.harbor.state.players.byId.size).toBe(0);
    expect(test.refusal({ ...hello, identity: account("game:1") })).toMatchObject({
      code: "banned",
      detail: "This account is banned for another 1 h: cheating.",
      current: { untilMs: test.now + 3_600_000 },
    });
    test.ok({ ...hello, identity: account("game:2") });
    test.ok(hello);
    test.pass(3_600_000);
    expect(test.kinds().at(-1)).toBe("ban.ended");
    test.ok({ ...hello, identity: account("game:1") });
  });

  it("is lifted by an operator, replaced by another one of the same account, and found again in a snapshot", () => {
    const test = new TestHarbor();
    const first = test.ok({ ...set, subject: { account: "game:1" } });
    const second = test.ok({ ...set, forMs: undefined, subject: { account: "game:1" } });
    expect(test.harbor.state.bans.byId.size).toBe(1);
    expect(second.untilMs).toBeUndefined();
    expect(test.refusal({ do: "ban.lift", ban: first.id, by: "x" }).code).toBe("ban-unknown");
    expect(readSnapshot(writeSnapshot(test.harbor.state))?.bans).toEqual(test.harbor.state.bans);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
    test.ok({ do: "ban.lift", ban: second.id, by: "night watch" });
    test.ok({ ...hello, identity: account("game:1") });
  });

  it("holds also for a player who comes back with a resume token", () => {
    const test = new TestHarbor();
    const { player } = test.ok({ ...hello, identity: account("game:1") });
    test.ok({ ...set, subject: { network: "192.0.2.0/24", everybody: true } });
    const again = { do: "player.resume", player: player.id, connection: 2 } as const;
    expect(test.refusal({ ...again, from: "192.0.2.9" })).toMatchObject({
      code: "banned",
      detail: "Your network is banned for another 1 h: cheating.",
    });
    test.ok({ ...again, from: "198.51.100.9" });
  });
});

describe("a ban of a network", () => {
  it("concerns guests from there, devices too, and accounts of the game only where it says everybody", () => {
    const test = new TestHarbor();
    test.ok({ ...set, subject: { network: "2001:db8::/32", everybody: false } });
    const from = "2001:db8:7::9";
    expect(test.refusal({ ...hello, from }).code).toBe("banned");
    expect(test.refusal({ ...hello, from, identity: account("device:abc") }).code).toBe("banned");
    test.ok({ ...hello, from, identity: account("game:1") });
    test.ok({ ...hello, from: "2001:db9::9" });
    test.ok({ ...set, subject: { network: "2001:db8::/32", everybody: true } });
    expect(test.refusal({ ...hello, from, identity: account("game:2") }).code).toBe("banned");
  });

  it("is refused when it is no network", () => {
    expect(new TestHarbor().refusal({ ...set, subject: { network: "192.0.2.0/33", everybody: false } }).code).toBe(
      "request-invalid",
    );
  });
});

describe("a network in its one form", () => {
  it.each([
    ["192.0.2.7", "192.0.2.7"],
    ["192.0.2.7/24", "192.0.2.0/24"],
    ["0.0.0.0/0", "0.0.0.0/0"],
    ["2001:DB8:0:0:1::5/64", "2001:db8::/64"],
    ["::1", "::1"],
    ["::ffff:192.0.2.1", "::ffff:c000:201"],
    ["2001:db8::1:0:0:1", "2001:db8::1:0:0:1"],
  ])("%s is %s", (typed, text) => {
    expect(networkText(networkKey(typed) ?? "")).toBe(text);
  });

  it.each(["", "x", "192.0.2", "192.0.2.256", "1.2.3.4/", "1.2.3.4/8/8", "::1::", "1:2:3", "12345::", "::1/129"])(
    "%s is none",
    (typed) => {
      expect(networkKey(typed)).toBe(undefined);
    },
  );

  it("is among those around each address in it, whatever its length", () => {
    fc.assert(
      fc.property(fc.ipV4(), fc.integer({ min: 0, max: 32 }), (address, prefix) => {
        expect(networksAround(address)).toContain(networkKey(`${address}/${prefix}`));
      }),
    );
    fc.assert(
      fc.property(fc.ipV6(), fc.integer({ min: 0, max: 128 }), (address, prefix) => {
        const key = networkKey(`${address}/${prefix}`);
        expect(networksAround(address)).toContain(key);
        expect(networkKey(networkText(key ?? ""))).toBe(key);
      }),
    );
  });
});
