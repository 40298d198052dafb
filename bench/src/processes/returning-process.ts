// Players in rooms of 8 who come back when they are cut off, as the SDK does; or connections that do the same.
import { setTimeout as wait } from "node:timers/promises";
import { BarePlayer, inTurns } from "./bare-player.ts";

const ROOM = 8;
/** Doubling from 200 ms to 5 s, with jitter. */
const pauseMs = (attempt: number) => Math.min(5_000, 200 * 2 ** (attempt - 1)) * (0.25 + 0.75 * Math.random());

interface Load {
  readonly url: string;
  readonly isService: boolean;
  readonly build: string;
  readonly players: number;
}

interface Welcome {
  readonly frame: string;
  readonly resume?: string;
}

interface Closing {
  readonly problem: { readonly retryEveryMs?: number };
}

let backAtMs: number[] = [];
let expected = 0;
let resolveAll: () => void = () => undefined;

async function come({ url, isService, build, players }: Load): Promise<object> {
  expected = players;
  await inTurns(players / ROOM, 8, async (number) => {
    let room = "";
    for (let place = 0; place < ROOM; place++) {
      const player = await BarePlayer.open(url);
      const welcome = (await player.hello(build, `Player ${number * ROOM + place}`)) as Welcome;
      if (isService && place > 0) await player.request("room.join", { room });
      else if (isService) room = (await player.request("room.open", { capacity: ROOM })).reply?.room?.id ?? "";
      let everyMs: number | undefined;
      player.onOther = (bytes) => {
        if (bytes.toString("latin1", 0, 18).startsWith('{"frame":"closing"'))
          everyMs = (JSON.parse(String(bytes)) as Closing).problem.retryEveryMs;
      };
      player.socket.once("close", () => void comeBack(url, build, welcome.resume, everyMs));
    }
  });
  return {};
}

/** As the SDK does: at the pace that the service has named, or with pauses that grow. */
async function comeBack(url: string, build: string, token: string | undefined, everyMs?: number): Promise<void> {
  for (let attempt = 1; ; attempt++) {
    await wait(everyMs === undefined ? pauseMs(attempt) : everyMs * (0.5 + Math.random()));
    try {
      const player = await BarePlayer.open(url);
      const closed = new Promise<undefined>((resolve) => player.socket.once("close", () => resolve(undefined)));
      const hello = player.say({ frame: "hello", wire: 1, build, ...(token !== undefined && { resume: token }) });
      if ((await Promise.race([hello, closed])) === undefined) continue;
      backAtMs.push(performance.timeOrigin + performance.now());
      if (backAtMs.length === expected) resolveAll();
      return;
    } catch {
      // It is not there yet.
    }
  }
}

async function allBack(): Promise<object> {
  await new Promise<void>((resolve) => {
    resolveAll = resolve;
    if (backAtMs.length === expected) resolve();
  });
  const lastBackAtMs = Math.max(...backAtMs);
  backAtMs = [];
  return { lastBackAtMs };
}

process.on("message", async (message: { come: Load } | { await: true }) => {
  process.send?.("come" in message ? await come(message.come) : await allBack());
});
