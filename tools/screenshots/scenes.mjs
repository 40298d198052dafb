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
  // Two who stay together search as one.
  const together = [];
  for (const name of ["Fenja", "Gorm"]) {
    together.push(await PlayerClient.connect({ url, name, lobby: "quayside", build: "tidewrights-0.3" }));
  }
  const [fenja, gorm] = together;
  const brought = (skill) => ({ attributes: { skill }, latencyMs: { "north-quay": 31 } });
  const { party } = await fenja.parties.open(brought(1930));
  await gorm.parties.join({ code: party.code, ...brought(1905) });
  await fenja.parties.invite({ account: "tidewrights:1201" });
  await fenja.search({ queue: "crews" });
  players.push(...together);
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
  for (const [n, player] of players.entries()) {
    await player.attributes.set({ lantern: ["amber", "green", "red", "white"][n] });
  }
  const { room } = await sorrel.openRoom({ kind: "moonlight", capacity: 4, name: "Low water" });
  for (const other of [teasel, umber, vetch]) await other.joinRoom({ room: room.id });
  const watching = [];
  for (const name of ["Yarrow", "Zinnia"]) {
    watching.push(await PlayerClient.connect({ url, name, lobby: "far-light", build: "tidewrights-0.3" }));
    await watching.at(-1).watchRoom({ room: room.id });
  }
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
  return () => Promise.all([...players, ...watching].map((player) => player.leave()));
}

/** Players who talk, stay together, and tell of one of them. */
export async function peopleScene(url) {
  const { PlayerClient } = await import(join(ROOT, "packages/client/dist/index.js"));
  const come = (name) => PlayerClient.connect({ url, name, build: "tidewrights-0.3", lobby: "quayside" });
  const [edda, fenn, sorrel, tamsin] = await Promise.all(["Edda", "Fenn", "Sorrel", "Tamsin"].map(come));
  const { party } = await edda.parties.open();
  await fenn.parties.join({ code: party.code });
  await edda.parties.invite({ player: tamsin.id });
  await sorrel.chat("Go home, all of you.");
  await sorrel.relations.message(tamsin.id, "You build like a gull.");
  await fenn.relations.report({ player: sorrel.id, reason: "abuse" });
  await tamsin.relations.report({ player: sorrel.id, reason: "abuse", text: "says so to everybody" });
  await tamsin.relations.block({ player: sorrel.id });
  return () => Promise.all([edda, fenn, sorrel, tamsin].map((one) => one.leave()));
}
