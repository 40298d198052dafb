import { matchWith } from "../model/pools/holds.ts";
import type { TestHarbor } from "./test-harbor.ts";

/** A player shows its pass where it has a berth. */
export function board(test: TestHarbor, player: string): void {
  for (const instance of test.harbor.state.pools.instances.values()) {
    const match = matchWith(instance, player);
    const berth = match?.berths.get(player);
    if (match && berth)
      return void test.run({ do: "instance.board", instance: instance.id, player, pass: berth.pass, run: match.run });
  }
}

/** The instance of a player says how its run ended. */
export function report(test: TestHarbor, player: string): void {
  for (const instance of test.harbor.state.pools.instances.values()) {
    const { id } = instance;
    const match = matchWith(instance, player);
    if (!match) continue;
    const standings = [...match.berths.keys()].map((one, n) => ({ player: one, score: n }));
    const { sides } = test.harbor.state.rooms.byId.get(match.room)?.policy ?? {};
    const scored = sides ? { sides: Object.fromEntries(sides.names.map((side, n) => [side, n])) } : {};
    return void test.run({ do: "instance.report", instance: id, run: match.run, standings, ...scored, payload: [1] });
  }
}
