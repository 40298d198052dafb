import { describe, expect, inject, it } from "vitest";
import { found } from "./regressions.ts";
import { runScript } from "./run.ts";
import { type Step, scriptOf } from "./script.ts";
import { shorten } from "./shorten.ts";
import type { World } from "./world.ts";

/** All of them for longer hours (RUNS=1), else as many as come by every part of the voyage. */
const SEEDS = [83, 97, 91, 60, 8, 1, 3, 9, 31, 13, 14, 75, 89, 15, 18, 2, 23, 51];
const STEPS = 7_000;

/** Parts of the voyage that a simulation has to come by, or it proves nothing of them. */
const COME_BY = [
  ...["player.connected", "player.resumed", "player.lost", "player.left", "lobby.joined", "lobby.tallied"],
  ...["room.opened", "room.joined", "room.departed", "room.closed", "room.host-changed", "room.member-back"],
  ...["room.watched", "room.unwatched", "room.spectator-changed"],
  ...["party.opened", "party.joined", "party.left", "party.invited", "party.called", "party.member-changed"],
  ...["room.set-up", "room.place-reserved", "room.reservation-ended"],
  ...["blocks.added", "friends.hidden", "room.peers-measured", "private.set", "private.removed"],
  ...["room.board-set", "room.turn-passed", "room.banned", "room.moved", "room.swap-offered", "room.counting"],
  ...["room.count-stopped", "room.started", "room.playing", "room.result-set", "room.returned", "room.gathered"],
  ...["travel.called", "travel.retried", "travel.boarding", "travel.arrived", "travel.completed", "travel.failed"],
  ...["instance.launched", "instance.opened", "instance.assigned", "instance.acknowledged", "instance.boarded"],
  ...[
    "instance.unboarded",
    "instance.reported",
    "instance.allocated",
    "instance.stop-requested",
    "instance.stop-forced",
  ],
  ...["instance.failed", "instance.exited", "instance.forgotten", "instance.berth-added", "travel.joined"],
  ...["travel.rerouted", "travel.host-requested", "travel.offered", "travel.progressed", "travel.followed"],
  ...["travel.berth-added", "travel.boarded", "travel.world-closed", "room.background-set", "room.voted"],
  ...["queue.ticket-opened", "queue.ticket-ended", "queue.held-changed", "queue.matched", "queue.accepted"],
  ...["queue.confirmed", "queue.undone", "queue.match-started", "queue.search-paused", "queue.backfill-started"],
  ...["queue.backfill-ended", "queue.backfilled", "queue.room-ended", "harbor.rules-changed"],
];

/** Every so many frames one is lost, and nobody is told. */
const leaveOutFrames = (world: World) => {
  let heard = 0;
  for (const player of world.players) {
    const hear = player.hear.bind(player);
    player.hear = (text, shadow) => {
      heard += 1;
      if (heard % 50 !== 0) hear(text, shadow);
    };
  }
};

const forget = (world: World) => {
  world.disk.forgets = true;
};

/** Orders reach the machine twice as they do after a recovery, and the second time without a look at what runs. */
const startTwice = (world: World) => {
  const carryOut = world.machine.carryOut.bind(world.machine);
  world.machine.carryOut = (effect) => {
    carryOut(effect);
    if (effect.effect === "start-instance") carryOut({ ...effect, instance: `${effect.instance}x` });
  };
};

describe("the simulation", () => {
  it("finds nothing that must never be, and comes by every part of the voyage", async () => {
    const unseen = new Set(COME_BY);
    for (const seed of SEEDS) {
      if (unseen.size === 0 && inject("runsShare") < 1) break;
      const run = await runScript(scriptOf(seed, STEPS), { seed });
      expect(run.fault, `seed ${seed}`).toBeUndefined();
      expect(run.counts.kills).toBeGreaterThan(3);
      for (const kind of run.kinds.keys()) unseen.delete(kind);
    }
    expect([...unseen]).toEqual([]);
  });

  it("is the same, to the byte, for the same seed", async () => {
    const [first, second, other] = await Promise.all(
      [71, 71, 72].map((seed) => runScript(scriptOf(seed, 1_500), { seed })),
    );
    expect(first).toEqual(second);
    expect(first?.digest).not.toBe(other?.digest);
  });

  it.each(Object.entries(found))("has not found this again: %s", async (_what, { seed, script }) => {
    expect((await runScript(script, { seed, compareEvery: 1 })).fault).toBeUndefined();
  });

  it.each([
    ["a disk that keeps nothing", forget, ["lost", "unannounced", "disk-otherwise"]],
    ["frames that are left out", leaveOutFrames, ["gap", "stale-state"]],
    ["processes that nobody launched", startTwice, ["early-start"]],
  ] as const)("finds %s, and a short script that shows it", async (_what, spoil, codes) => {
    const seed = 8;
    const options = { seed, spoil, compareEvery: 10 };
    const { fault } = await runScript(scriptOf(seed, 5_000), options);
    expect(codes).toContain(fault?.code);
    const fails = async (script: readonly Step[]) => (await runScript(script, options)).fault?.code === fault?.code;
    const script = await shorten([...scriptOf(seed, fault?.atStep ?? 0)], fails, 200);
    expect(await fails(script)).toBe(true);
    expect(script.length).toBeLessThan(60);
  });
});

describe("shortening", () => {
  it("keeps what is needed and leaves out the rest", async () => {
    const needed = [17, 203, 204, 900];
    const fails = async (list: readonly number[]) => needed.every((one) => list.includes(one));
    expect(await shorten([...Array(1_000).keys()], fails)).toEqual(needed);
  });
});
