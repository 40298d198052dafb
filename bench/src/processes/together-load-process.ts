// Players in groups of four who say something again and again, each with one request open: in rooms, in parties, or inviting.
import { BarePlayer, inTurns } from "./bare-player.ts";

const PLAYERS = 200;
const GROUP = 4;

type What = "ready" | "follows" | "invites";

interface Load {
  readonly url: string;
  readonly build: string;
  readonly what: What;
}

const players: BarePlayer[] = [];
let what: What = "ready";

/** What the nth round of somebody is: what a group is told of each time. */
const ASKS: Readonly<Record<What, (n: number, round: number) => readonly [ask: string, args: object]>> = {
  ready: (_, round) => ["room.ready", { ready: round % 2 === 0 }],
  follows: (_, round) => ["party.set", { follows: round % 2 === 1 }],
  invites: (n, round) => [round % 2 === 0 ? "room.invite" : "room.uninvite", { account: `game:${n}` }],
};

async function connect(load: Load): Promise<object> {
  what = load.what;
  for (let n = 0; n < PLAYERS; n++) players.push(await BarePlayer.open(load.url));
  await inTurns(PLAYERS, 20, async (n) => {
    await players[n]?.hello(load.build, `Player ${n}`);
  });
  await inTurns(PLAYERS / GROUP, 10, async (group) => {
    const [first, ...others] = players.slice(group * GROUP, (group + 1) * GROUP);
    if (first === undefined) return;
    if (what === "follows") {
      const { reply } = await first.request("party.open", {});
      const { code } = (reply as { party?: { code: string } } | undefined)?.party ?? {};
      for (const other of others) await other.request("party.join", { code });
      return;
    }
    // Places for those who are invited.
    const { reply } = await first.request("room.open", { capacity: 2 * GROUP });
    for (const other of others) await other.request("room.join", { room: reply?.room?.id });
  });
  return {};
}

async function measure(ms: number): Promise<object> {
  let answered = 0;
  let isOver = false;
  const play = async (player: BarePlayer, n: number) => {
    // Each ends as it began, so that the next round finds it so.
    for (let round = 0; !isOver || round % 2 === 1; round++) {
      const [ask, args] = ASKS[what](n, round);
      await player.request(ask, args);
      answered += 1;
    }
  };
  const all = Promise.all(players.map(play));
  await new Promise((resolve) => setTimeout(resolve, 500));
  const [before, begin] = [answered, performance.now()];
  await new Promise((resolve) => setTimeout(resolve, ms));
  const perSecond = (answered - before) / ((performance.now() - begin) / 1000);
  isOver = true;
  await all;
  return { perSecond };
}

process.on("message", async (message: { connect: Load } | { measureMs: number }) => {
  process.send?.("connect" in message ? await connect(message.connect) : await measure(message.measureMs));
});
