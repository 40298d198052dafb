import { setTimeout as wait } from "node:timers/promises";
import { type PlayerClient, ProblemError } from "@yellow-harbor/client";
import type { BoardingPass, RoomView } from "@yellow-harbor/protocol";
import { type Bot, pause } from "./bot.ts";
import { count } from "./tally.ts";

interface Stay {
  /** How long it stays; a run under way is seen to its end. */
  readonly stayMs: number;
  /** How long it takes to load before it boards. */
  readonly boardAfterMs: number;
}

const THINK_MS = 700;

/** Does in a room what members do: picks a level, gets ready, starts, boards, plays; until it is time to go. */
export async function stayInRoom(bot: Bot, { stayMs, boardAfterMs }: Stay): Promise<void> {
  const { player, signal, tally, chance } = bot;
  const until = Date.now() + stayMs * (0.5 + chance());
  const { levels } = await player.listLevels();
  await greet(bot);
  const off = player.on("change", ({ update }) => {
    if (update?.kind === "result") tally.results += 1;
    if (update?.kind === "returned") tally.returned += 1;
  });
  try {
    for (let boarded: string | undefined; !signal.aborted; ) {
      const { room } = player.state;
      if (room === undefined || (Date.now() > until && !isUnderWay(room))) return;
      const { pass } = player;
      if (pass !== undefined && pass.run !== boarded && bot.goAboard !== undefined) {
        boarded = pass.run;
        await playRun(bot, pass, boardAfterMs);
      } else {
        await tryStep(bot, room, levels[Math.floor(chance() * levels.length)]?.id);
      }
      await pause(bot, THINK_MS);
    }
  } finally {
    off();
  }
}

const isUnderWay = ({ phase }: RoomView) => phase === "travelling" || phase === "playing";

async function greet({ player, tally, chance }: Bot): Promise<void> {
  const place = player.state.room?.members[player.id]?.place ?? 0;
  await player.board.set(`lantern.${place}`, ["amber", "green", "red", "white"][Math.floor(chance() * 4)]);
  await player.relay({ text: "ahoy" });
  tally.relayed += 1;
}

/** One step towards a start. Somebody else may have taken it, or the state may be a moment old: then it is refused. */
async function tryStep(bot: Bot, room: RoomView, level: string | undefined): Promise<void> {
  try {
    await step(bot, room, level);
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    count(bot.tally.refused, error.code);
  }
}

async function step(
  { player, tally, goAboard, chance }: Bot,
  room: RoomView,
  level: string | undefined,
): Promise<void> {
  const me = room.members[player.id];
  const isHost = room.host === player.id;
  if (room.phase === "results" && isHost) return void (await player.ask("room.gather", {}));
  if (room.phase === "travelling") return travelStep(player, room);
  if (room.phase === "playing" && isHost && room.destination?.by === "relayed") return endRun(player, chance, room);
  if (room.phase !== "gathering") return;
  if (
    isHost &&
    level !== undefined &&
    (room.level === undefined || room.missing.some(({ code }) => code === "too-many"))
  ) {
    return void (await player.pickLevel(level));
  }
  // Without a way aboard a start would only come to nothing.
  if (goAboard === undefined) return void (chance() < 0.2 && (await player.setReady(chance() < 0.5)));
  if (me !== undefined && !me.ready) return void (await player.setReady(true));
  if (isHost && room.missing.length === 0) {
    await player.start();
    tally.started += 1;
  }
}

/** Where the service relays a bot is there at once; a world of its own it has none. */
async function travelStep(player: PlayerClient, { travel, members }: RoomView): Promise<void> {
  const isAsked = travel?.step === "preparing" && travel.player === player.id;
  if (isAsked) return void (await player.travel.decline("bots run no world"));
  const isThere = members[player.id]?.aboard === true;
  if (travel?.by === "relayed" && travel.step === "boarding" && !isThere) await player.travel.arrive();
}

/** Now and then a host decides how a run has ended that nobody else looks at. */
async function endRun(player: PlayerClient, chance: () => number, { members }: RoomView): Promise<void> {
  if (chance() > 0.2) return;
  const standings = Object.keys(members).map((id) => ({ player: id, score: Math.floor(chance() * 10) }));
  await player.ask("room.set-result", { standings });
}

async function playRun(bot: Bot, pass: BoardingPass, boardAfterMs: number): Promise<void> {
  const { signal, goAboard, tally } = bot;
  await wait(boardAfterMs, undefined, { signal }).catch(() => undefined);
  if (signal.aborted || goAboard === undefined) return;
  try {
    const aboard = await goAboard(pass);
    tally.boarded += 1;
    const disembark = () => aboard.disembark();
    signal.addEventListener("abort", disembark, { once: true });
    await aboard.play().finally(() => signal.removeEventListener("abort", disembark));
    aboard.disembark();
  } catch (error) {
    // At the end of its time a bot leaves in the middle of a run, and that is no refusal.
    if (signal.aborted) return;
    // The game's own refusals: the run ended meanwhile, or the place was given up.
    count(tally.refused, `game: ${(error as { code?: string }).code ?? (error as Error).message}`);
  }
}
