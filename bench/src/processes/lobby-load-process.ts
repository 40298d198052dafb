// Fills a lobby, then has players come, list the directory's first page and leave. Counts the visits.
import { BarePlayer, inTurns } from "./bare-player.ts";

interface Load {
  readonly url: string;
  readonly build: string;
  readonly players: number;
}

let load: Load = { url: "", build: "", players: 0 };
/** Those who stay connected hear the numbers change. */
const present: BarePlayer[] = [];
const PRESENT = 100;

async function fill(wanted: Load): Promise<object> {
  load = wanted;
  await inTurns(load.players, 20, async (n) => {
    const player = await BarePlayer.open(load.url);
    await player.hello(load.build, `Player ${n}`);
    // The place stays for the grace; the connection is not part of what is measured.
    if (n < PRESENT) present.push(player);
    else player.socket.terminate();
  });
  return {};
}

async function visit(n: number): Promise<void> {
  const player = await BarePlayer.open(load.url);
  await player.hello(load.build, `Visitor ${n}`);
  await player.request("lobby.rooms", { limit: 10 });
  await player.request("player.leave", {});
}

async function work(visits: number): Promise<object> {
  await inTurns(visits, 20, visit);
  return { visits };
}

process.on("message", async (message: { fill: Load } | { visits: number }) => {
  process.send?.("fill" in message ? await fill(message.fill) : await work(message.visits));
});
