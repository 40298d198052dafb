// Fills a service with rooms, then has 100 players do what players do: ready, not ready, leave, quickJoin. Counts commands.
import { BarePlayer, inTurns } from "./bare-player.ts";

const PLAYERS = 100;

interface Load {
  readonly url: string;
  readonly build: string;
  readonly rooms: number;
}

const players: BarePlayer[] = [];

async function fill({ url, build, rooms }: Load): Promise<object> {
  await inTurns(rooms, 20, async (n) => {
    const host = await BarePlayer.open(url);
    await host.hello(build, `Host ${n}`);
    await host.request("room.open", { capacity: 4 });
    // The room stays while the place of its host is kept; the connection is not part of what is measured.
    host.socket.terminate();
  });
  await inTurns(PLAYERS, 20, async (n) => {
    const player = await BarePlayer.open(url);
    players.push(player);
    await player.hello(build, `Player ${n}`);
    await player.request("room.quick-join", {});
  });
  return {};
}

async function play(player: BarePlayer, rounds: number): Promise<void> {
  for (let round = 0; round < rounds; round++) {
    await player.request("room.ready", { ready: true });
    await player.request("room.ready", { ready: false });
    await player.request("room.leave", {});
    await player.request("room.quick-join", {});
  }
}

async function work(rounds: number): Promise<object> {
  await Promise.all(players.map((player) => play(player, rounds)));
  return { commands: players.length * rounds * 4 };
}

process.on("message", async (message: { fill: Load } | { rounds: number }) => {
  process.send?.("fill" in message ? await fill(message.fill) : await work(message.rounds));
});
