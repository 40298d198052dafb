// Players who sit in rooms of 8 and do nothing, or connections that say one thing and do nothing.
import { BarePlayer, inTurns } from "./bare-player.ts";

const ROOM = 8;

interface Load {
  readonly url: string;
  readonly isService: boolean;
  readonly build: string;
  readonly players: number;
}

const sitting: BarePlayer[] = [];

async function sit({ url, isService, build, players }: Load): Promise<object> {
  await inTurns(players / ROOM, 8, async (room) => {
    let id = "";
    for (let place = 0; place < ROOM; place++) {
      const player = await BarePlayer.open(url);
      sitting.push(player);
      await player.hello(build, `Player ${room * ROOM + place}`);
      if (!isService) continue;
      if (place > 0) await player.request("room.join", { room: id });
      else id = (await player.request("room.open", { capacity: ROOM })).reply?.room?.id ?? "";
    }
  });
  return { sitting: sitting.length };
}

function leave(): object {
  for (const { socket } of sitting.splice(0)) socket.terminate();
  return {};
}

process.on("message", async (message: { sit: Load } | { leave: true }) => {
  process.send?.("sit" in message ? await sit(message.sit) : leave());
});
