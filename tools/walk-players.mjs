// The players of the walks: four of them, told step by step what to do.
import { PlayerClient } from "../packages/client/dist/index.js";

const [url] = process.argv.slice(2);
const players = [];

const steps = {
  begin: async () => {
    for (const name of ["Ansel", "Brisa", "Corin", "Dovie"]) {
      players.push(await PlayerClient.connect({ url, name, build: "game-1" }));
    }
  },
  room: (player) => player.openRoom({}),
  join: (player) => player.joinRoom({ room: players[0].state.room.id }),
  level: (player) => player.pickLevel("brine-gate"),
  // Both have heard of it.
  ready: async (player) => {
    const told = Promise.all(
      players.slice(0, 2).map((one) => one.until(({ room }) => room?.members[player.id]?.ready === true)),
    );
    await player.setReady(true);
    await told;
  },
  start: async (player) => {
    await player.start();
    await player.nextPass();
  },
  search: (player) => player.search({ queue: "pairs" }),
  "search-and-meet": async (player) => {
    const met = Promise.all(players.slice(2).map((one) => one.until(({ room }) => room !== undefined)));
    await player.search({ queue: "pairs" });
    await met;
  },
};

process.on("message", async ({ do: step, who }) => {
  try {
    await steps[step](players[who]);
    process.send({ ok: true });
  } catch (error) {
    process.send({ ok: false, detail: String(error?.message ?? error) });
  }
});
