import type { MatchAssignment } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { InstanceKit } from "./instance-kit.ts";
import { openKit, StandAloneKit } from "./stand-alone.ts";

describe("the kit without a service", () => {
  it("gives one match after the other, lets in who is promised a berth, once, and tells the results", async () => {
    const matches: MatchAssignment[] = [];
    const said: string[] = [];
    let onMatch: () => void = () => undefined;
    const kit = new StandAloneKit(
      {
        match: (match) => {
          matches.push(match);
          onMatch();
        },
        stop: () => undefined,
      },
      { players: ["Edda", "Fenn"], level: "gull-flats", say: (text) => said.push(text) },
    );
    await kit.announce();
    const [match] = matches;
    expect(match).toMatchObject({
      level: "gull-flats",
      players: [
        { name: "Edda", place: 0 },
        { name: "Fenn", place: 1 },
      ],
    });
    const edda = await kit.board("Edda");
    expect(edda).toMatchObject({ run: match?.run, player: { name: "Edda" } });
    await expect(kit.board("Edda")).rejects.toMatchObject({ problem: { code: "pass-used" } });
    await expect(kit.board("Corin")).rejects.toMatchObject({ problem: { code: "berth-unknown" } });
    await expect(kit.report("u_000000000000", [])).rejects.toMatchObject({ problem: { code: "match-unknown" } });
    const next = new Promise<void>((resolve) => {
      onMatch = resolve;
    });
    await kit.report(match?.run ?? "", [{ player: edda.player.id, score: 7 }], { note: "calm" });
    await next;
    expect(said).toContain("result: Edda 7 (calm)");
    expect(matches[1]?.run).not.toBe(match?.run);
    await kit.board("Edda");
    await kit.goodbye("enough");
  });

  it("is what a process gets that no service has started", () => {
    const handlers = { match: () => undefined, stop: () => undefined };
    expect(openKit(handlers, {}, {})).toBeInstanceOf(StandAloneKit);
    const env = {
      YELLOW_HARBOR_URL: "http://127.0.0.1:1",
      YELLOW_HARBOR_KEY: "k",
      YELLOW_HARBOR_INSTANCE: "i_4kq2m7c9x0ab",
      YELLOW_HARBOR_HOST: "127.0.0.1",
      YELLOW_HARBOR_PORT: "7500",
    };
    expect(openKit(handlers, {}, env)).toBeInstanceOf(InstanceKit);
  });
});
