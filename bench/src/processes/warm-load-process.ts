// Members of one room, which starts by itself: from the last one's word to address and pass at every one of them.
import { connect } from "node:net";
import { BarePlayer } from "./bare-player.ts";

const SIZE = 4;
const PASS = /"kind":"boarding-pass"/;
const RUN = /"run":"(u_[a-z0-9]{12})"/;

interface Pass {
  readonly address: { readonly host: string; readonly port: number };
  readonly pass: string;
}

const players: BarePlayer[] = [];
let host = "";
/** Resolves for each player with what the first frame brings that fits. */
const waiting = new Map<BarePlayer, { readonly fits: RegExp; readonly take: (text: string) => void }>();

function next(player: BarePlayer, fits: RegExp): Promise<string> {
  return new Promise((take) => waiting.set(player, { fits, take }));
}

async function connectAll(url: string, build: string): Promise<void> {
  for (let n = 0; n < SIZE; n++) {
    const player = await BarePlayer.open(url);
    player.onOther = (bytes) => {
      const text = bytes.toString("latin1");
      const one = waiting.get(player);
      if (one === undefined || !one.fits.test(text)) return;
      waiting.delete(player);
      one.take(String(bytes));
    };
    const welcome = (await player.hello(build, `Player ${n}`)) as unknown as { player: { id: string } };
    if (n === 0) host = welcome.player.id;
    players.push(player);
  }
  const [first, ...others] = players as [BarePlayer, ...BarePlayer[]];
  const { reply } = await first.request("room.open", { capacity: SIZE });
  for (const other of others) await other.request("room.join", { room: reply?.room?.id ?? "" });
  await first.request("room.pick-level", { level: "brine-gate" });
}

const board = ({ address, pass }: Pass) =>
  new Promise<void>((resolve, reject) => {
    const socket = connect(address.port, address.host, () => socket.write(`${pass}\n`));
    socket.on("error", reject);
    socket.on("close", () => resolve());
    socket.resume();
  });

/** One run: how long it took from the last word to the last pass, in milliseconds. */
async function once(): Promise<number> {
  const [first, ...others] = players as [BarePlayer, ...BarePlayer[]];
  for (const other of others) await other.request("room.ready", { ready: true });
  const passes = players.map((player) => next(player, PASS));
  const begin = performance.now();
  void first.request("room.ready", { ready: true });
  const texts = await Promise.all(passes);
  const tookMs = performance.now() - begin;
  const playing = next(first, /"kind":"playing"/);
  await Promise.all(texts.map((text) => board((JSON.parse(text) as { update: { pass: Pass } }).update.pass)));
  if (!RUN.test(await playing)) throw new Error("the update of the run names no run");
  await first.request("room.set-result", { standings: [{ player: host, score: 1 }] });
  return tookMs;
}

type Order = { connect: { url: string; build: string } } | { runs: number } | { part: true };

process.on("message", async (order: Order) => {
  if ("connect" in order) {
    await connectAll(order.connect.url, order.connect.build);
    process.send?.({ ok: true });
    return;
  }
  if ("part" in order) {
    // With the room its instance goes, and with that the port that the next benchmark wants.
    for (const player of players) await player.request("room.leave", {});
    process.send?.({ ok: true });
    return;
  }
  const took: number[] = [];
  for (let n = 0; n < order.runs; n++) took.push(await once());
  process.send?.({ took });
});
