// What players of the demo do for an image.
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { ROOT } from "../run.mjs";

/** Some who search in the queue, far from each other in skill and near. Returns how to let them go. */
export async function searchScene(url) {
  const { PlayerClient } = await import(join(ROOT, "packages/client/dist/index.js"));
  const players = [];
  for (const [name, skill, home] of [
    ["Almut", 1500, "north-quay"],
    ["Berit", 1580, "north-quay"],
    ["Cosmo", 1490, "north-quay"],
    ["Dragan", 2150, "north-quay"],
    ["Esme", 1520, "far-light"],
  ]) {
    const player = await PlayerClient.connect({ url, name, lobby: "quayside", build: "tidewrights-0.3" });
    await player.search({ queue: "crews", attributes: { skill }, latencyMs: { [home]: 24 } });
    players.push(player);
    await wait(900);
  }
  return () => Promise.all(players.map((player) => player.leave()));
}

/** Four players on their way, each as far as it is; the host could not run the world. Returns how to let them go. */
export async function travelScene(url) {
  const { PlayerClient } = await import(join(ROOT, "packages/client/dist/index.js"));
  const names = ["Sorrel", "Teasel", "Umber", "Vetch"];
  const players = [];
  for (const name of names) {
    players.push(await PlayerClient.connect({ url, name, lobby: "far-light", build: "tidewrights-0.3" }));
  }
  const [sorrel, teasel, umber, vetch] = players;
  const { room } = await sorrel.openRoom({ kind: "moonlight", capacity: 4, name: "Low water" });
  for (const other of [teasel, umber, vetch]) await other.joinRoom({ room: room.id });
  for (const player of players) await player.vote("gull-flats");
  for (const player of players) await player.setReady(true);
  await sorrel.start();
  await sorrel.until(({ room }) => room?.travel?.player === sorrel.id);
  await sorrel.travel.decline("its port is closed");
  for (const player of players) await player.until(({ room }) => room?.travel?.by === "relayed");
  await sorrel.travel.arrive();
  await teasel.travel.progress(64);
  await umber.travel.progress(12);
  await umber.setBackground(true);
  await vetch.travel.progress(88);
  await vetch.travel.trouble("the level's files are damaged");
  return () => Promise.all(players.map((player) => player.leave()));
}
