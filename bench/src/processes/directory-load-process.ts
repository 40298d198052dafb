// 500 who follow the directory, and 40 hosts who each change the name of their room again and again. Counts differences.
import { BarePlayer, inTurns } from "./bare-player.ts";

const WATCHERS = 500;
const HOSTS = 40;
const DIRECTORY = '{"frame":"directory"';
const LISTING = '"openedAtMs"';

interface Load {
  readonly url: string;
  readonly isService: boolean;
  readonly build: string;
}

const hosts: BarePlayer[] = [];
let frames = 0;
let probeFrames = 0;
let probeDifferences = 0;
let sample = "";
let isRunning = false;

async function connect({ url, isService, build }: Load): Promise<object> {
  await inTurns(HOSTS, 20, async (n) => {
    const host = await BarePlayer.open(url);
    hosts.push(host);
    if (!isService) return;
    await host.hello(build, `Host ${n}`);
    await host.request("room.open", { name: `Room ${n}` });
  });
  await inTurns(WATCHERS, 20, async (n) => {
    const watcher = await BarePlayer.open(url);
    watcher.onOther = (bytes) => {
      if (bytes.toString("latin1", 0, DIRECTORY.length) !== DIRECTORY) return;
      frames += 1;
      if (n > 0) return;
      // All get the same bytes: what one of them holds, all of them hold.
      const text = String(bytes);
      probeFrames += 1;
      probeDifferences += text.split(LISTING).length - 1;
      sample ||= text;
    };
    if (!isService) return;
    await watcher.hello(build, `Watcher ${n}`);
    await watcher.request("lobby.follow", {});
  });
  if (!isService) return {};
  await hosts[0]?.request("room.change", { name: "Room of the sample" });
  while (sample === "") await new Promise((resolve) => setTimeout(resolve, 20));
  return { sample };
}

async function change(host: BarePlayer, n: number): Promise<void> {
  for (let turn = 0; isRunning; turn++) await host.request("room.change", { name: `Room ${n} turn ${turn}` });
}

async function measure(ms: number): Promise<object> {
  isRunning = true;
  const changing = hosts.map(change);
  await new Promise((resolve) => setTimeout(resolve, 500));
  [frames, probeFrames, probeDifferences] = [0, 0, 0];
  const begin = performance.now();
  await new Promise((resolve) => setTimeout(resolve, ms));
  const seconds = (performance.now() - begin) / 1000;
  const each = probeDifferences / Math.max(1, probeFrames);
  const perSecond = (frames * each) / seconds;
  isRunning = false;
  await Promise.all(changing);
  await new Promise((resolve) => setTimeout(resolve, 300));
  return { perSecond, each };
}

process.on("message", async (message: { connect: Load } | { measureMs: number }) => {
  process.send?.("connect" in message ? await connect(message.connect) : await measure(message.measureMs));
});
