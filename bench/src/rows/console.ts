import { setTimeout as wait } from "node:timers/promises";
import { OperatorClient, PlayerClient } from "@yellow-harbor/client";
import { chromium, type Page } from "playwright-core";
import type { Row } from "../row.ts";
import { BENCH_BUILD, startBenchService } from "../service.ts";

const ROOMS = 5_000;
/** An operator may ask 200 times a second. */
const ROOMS_PER_S = 170;
const PLAYERS = 300;
const CHANGES_PER_S = 500;
const SECONDS = 10;

/** How smooth the console stays while much happens. */
export const consolePage: Row = {
  name: "console",
  about: `p99 of the time between two frames of the console's rooms, ${ROOMS} of them and ${CHANGES_PER_S} changes a second; ceiling: an empty page beside it, under the same changes`,
  unit: "ms",
  goal: 3,
  higherIsBetter: false,
  rounds: 3,
  prepare: async () => {
    const service = await startBenchService();
    const rooms = await openRooms(service.url);
    const players: PlayerClient[] = [];
    for (let n = 0; n < PLAYERS; n++) {
      const player = await PlayerClient.connect({ url: service.url, name: `P${n}`, build: BENCH_BUILD });
      await player.joinRoom({ room: rooms[Math.floor((n * rooms.length) / PLAYERS)] ?? "" });
      players.push(player);
    }
    const browser = await chromium.launch({
      executablePath: process.env["CHROMIUM"] ?? "/usr/bin/chromium",
      args: ["--no-sandbox", "--disable-gpu"],
    });
    const measure = async (address: string) => {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await page.goto(address);
      await wait(3_000);
      const [p99] = await Promise.all([betweenFrames(page), change(players)]);
      await page.close();
      return p99;
    };
    return {
      ours: () => measure(`${service.url}/#/rooms`),
      ceiling: () => measure("about:blank"),
      whereTheTimeGoes: () => "putting 5,000 rows in order, and drawing those in sight and the newest events",
      end: async () => {
        await browser.close();
        for (const player of players) player.drop();
        await service.end();
      },
    };
  },
};

async function openRooms(url: string): Promise<string[]> {
  const operator = new OperatorClient({ url });
  const rooms: string[] = [];
  const begin = performance.now();
  while (rooms.length < ROOMS) {
    const opened = await Promise.all(
      Array.from({ length: 40 }, (_, n) =>
        operator.openRoom({ lobby: "quayside", kind: "crews", name: `Room ${rooms.length + n}`, keepMs: 3_600_000 }),
      ),
    );
    rooms.push(...opened.map(({ room }) => room.id));
    await wait(Math.max(0, (rooms.length / ROOMS_PER_S) * 1_000 - (performance.now() - begin)));
  }
  return rooms;
}

/** Has players write on their boards, evenly over the time. */
async function change(players: readonly PlayerClient[]): Promise<void> {
  const begin = performance.now();
  const writing: Promise<unknown>[] = [];
  for (let sent = 0; sent < CHANGES_PER_S * SECONDS; ) {
    const due = Math.min(((performance.now() - begin) / 1_000) * CHANGES_PER_S, CHANGES_PER_S * SECONDS);
    for (; sent < due; sent++) {
      const writes = players[sent % players.length]?.board.set("tide", sent);
      if (writes) writing.push(writes);
    }
    await wait(5);
  }
  await Promise.all(writing);
}

/** The 99th percentile of the time from one frame to the next, in milliseconds. */
const betweenFrames = (page: Page): Promise<number> =>
  page.evaluate(
    (forMs) =>
      new Promise<number>((resolve) => {
        const gaps: number[] = [];
        const begin = performance.now();
        let last = begin;
        const frame = () => {
          const now = performance.now();
          gaps.push(now - last);
          last = now;
          if (now - begin < forMs) return requestAnimationFrame(frame);
          gaps.sort((a, b) => a - b);
          return resolve(gaps[Math.floor(gaps.length * 0.99)] ?? 0);
        };
        requestAnimationFrame(frame);
      }),
    SECONDS * 1_000,
  );
