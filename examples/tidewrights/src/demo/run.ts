import { setTimeout as wait } from "node:timers/promises";
import type { PlayerClient } from "@yellow-harbor/client";
import type { RoomView } from "@yellow-harbor/protocol";
import { HostedTide } from "../game/hosted.ts";
import { goAboard } from "../game/play.ts";
import { playRelayed } from "../game/relayed.ts";

const TIDE_MS = 2_000;
/** Machines differ: so long a bot takes to load, at most. */
const LOAD_MOST_MS = 2_400;
const LOAD_STEPS = 4;

/** Where a run is, as soon as there is a way to it. */
const placeOf = ({ travel, destination }: RoomView) => (travel?.step === "boarding" ? travel : destination);

/** Plays the run that the room was called to, wherever that is. Resolves when it is over for the bot. */
export async function playRun(player: PlayerClient, chance: () => number): Promise<void> {
  const run = player.state.room?.run;
  if (run === undefined) return;
  const isOver = (room: RoomView | undefined) => room?.run !== run;
  await player.until(
    ({ room }) => isOver(room) || isHostOf(room, player.id) || placeOf(room as RoomView) !== undefined,
    60_000,
  );
  const { room } = player.state;
  if (room === undefined || isOver(room)) return;
  if (isHostOf(room, player.id) && (await new HostedTide(player, { tideMs: TIDE_MS }).run())) return;
  await load(player, run, chance);
  const place = player.state.room && placeOf(player.state.room);
  if (place === undefined || isOver(player.state.room)) return;
  if (place.by === "relayed") {
    await player.travel.arrive();
    await player.until(({ room }) => isOver(room) || room?.phase === "playing", 60_000);
    return playRelayed(player, TIDE_MS, chance);
  }
  const pass = player.pass ?? (await player.nextPass());
  const aboard = await goAboard(pass, chance);
  await aboard.play().finally(() => aboard.disembark());
}

/** Whether the member is asked to run the world. */
const isHostOf = (room: RoomView | undefined, player: string): boolean =>
  room?.travel?.by === "player-hosted" && room.travel.step === "preparing" && room.travel.player === player;

/** Loads the level in a few steps, and tells how far it is. */
async function load(player: PlayerClient, run: string, chance: () => number): Promise<void> {
  const ms = LOAD_MOST_MS * chance();
  for (let step = 1; step <= LOAD_STEPS; step++) {
    await wait(ms / LOAD_STEPS);
    // The others may have gone on without it meanwhile.
    if (player.state.room?.travel?.run !== run) return;
    await player.travel.progress((100 * step) / LOAD_STEPS);
  }
}
