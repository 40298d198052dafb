import { setTimeout as wait } from "node:timers/promises";
import type { PlayerClient } from "@yellow-harbor/client";
import { TideMatch } from "../server/tide-match.ts";

const LAY_EVERY_MS = 150;

/** Plays a run without any server: stones go from member to member through the service, and the host counts them. */
export async function playRelayed(player: PlayerClient, tideMs: number, chance: () => number): Promise<void> {
  const { room } = player.state;
  const run = room?.run;
  if (room === undefined || run === undefined) return;
  const players = Object.values(room.members).map(({ id, name, place }) => ({ id, name, place }));
  const match = new TideMatch({ room: room.id, run, level: room.level?.id ?? "", players });
  const off = player.on(
    "relayed",
    ({ from, body }) => void match.lay(from, (body as { stone?: unknown } | null)?.stone),
  );
  try {
    for (const begin = Date.now(); Date.now() - begin < tideMs && player.state.room?.run === run; ) {
      const stone = 1 + Math.floor(chance() * 9);
      match.lay(player.id, stone);
      await player.relay({ stone });
      await wait(LAY_EVERY_MS);
    }
  } finally {
    off();
  }
  const { room: now } = player.state;
  if (now?.run !== run || now.host !== player.id) return;
  const { standings, note } = match.finish();
  const present = standings.filter(({ player: id }) => Object.hasOwn(now.members, id));
  await player.ask("room.set-result", { standings: present, note });
}
