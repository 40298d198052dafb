import { type HarborState, runOf } from "@yellow-harbor/core";
import type { Asking, SimPlayer } from "./sim-player.ts";

/** What the members of a travelling room have to do next, where no instance sees to it. */
export function travelOn({ rooms, travels }: HarborState, players: readonly SimPlayer[], n: number): void {
  const here = (id: string) => players.find((player) => player.id === id && player.link !== undefined);
  const ask = (id: string, command: Asking) => here(id)?.ask(command);
  for (const one of rooms.byId.values()) {
    const { id: room, members } = one;
    const run = runOf(one);
    if (run === null) continue;
    const travel = travels.byRun.get(run);
    const by = travel?.options[travel.option];
    if (by === "relayed" && travel?.step === "boarding") {
      for (const player of members.keys()) ask(player, { do: "travel.arrive", player, args: { run } });
    }
    if (by === "player-hosted" && travel?.step === "preparing" && travel.hosting) {
      const { player } = travel.hosting;
      ask(player, { do: "travel.offer", player, args: { run, addresses: [{ host: "127.0.0.1", port: 8_000 + n }] } });
    }
    const world = travels.worlds.get(room);
    const joining = [...(world?.berths.values() ?? [])].find(
      ({ player, state }) => state === "reserved" && here(player),
    );
    if (world && joining) {
      const shown = { player: joining.player, pass: joining.pass, run: world.run, level: world.level };
      ask(world.player, { do: "travel.board", player: world.player, args: { shown } });
    }
  }
}
