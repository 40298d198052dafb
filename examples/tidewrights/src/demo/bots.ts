import { randomBytes } from "node:crypto";
import { PlayerClient, ProblemError } from "@yellow-harbor/client";
import type { RoomView } from "@yellow-harbor/protocol";
import { type BotOptions, pause } from "./bot.ts";
import { playRun } from "./run.ts";
import { findCrew } from "./search.ts";
import { acceptInvitations, follow, foundParty, isFollower, lookOn, part } from "./together.ts";
import { GAME_BUILD } from "./voyage.ts";

/** Room kinds that bots quick-join in each lobby. */
const KINDS = { quayside: ["quick-crews"], "far-light": ["two-crews", "open-tide", "moonlight"] } as const;
const LEAVES_EARLY = 0.15;
const LEADS = 0.4;
const LOOKS_ON = 0.15;
const LEVELS = ["brine-gate"];
const VOTED = ["gull-flats", "old-slip"];
const LANTERNS = ["amber", "green", "red", "white"];
const WEATHER = ["fog", "calm", "squall"];

/** A bot that lives in the service until `signal` is aborted: gathers, plays, parts, and begins again. */
export async function liveAsBot(options: BotOptions): Promise<void> {
  const { url, name, lobby, signal } = options;
  // The same guest each time: so that a ban of one is not one of all who come from this computer.
  const device = randomBytes(24).toString("base64url");
  while (!signal.aborted) {
    try {
      const player = await PlayerClient.connect({ url, name, lobby, device, build: GAME_BUILD });
      // A goodbye frees the place at once; without one it would be kept for the grace.
      const part = () => void player.leave().catch(() => player.drop());
      signal.addEventListener("abort", part, { once: true });
      await visit(player, options).finally(() => signal.removeEventListener("abort", part));
    } catch (error) {
      // Refusals and lost races are a bot's daily life; it comes again.
      if (!(error instanceof ProblemError) && !signal.aborted && !isOfTheGame(error)) throw error;
    }
    await pause(options, 2_000);
  }
}

const isOfTheGame = (error: unknown) => /game closed|ECONN|berth|pass/i.test(String((error as Error).message));

/** One stay: looks round in the lobby, goes into a room, plays some runs there, and parts. */
async function visit(player: PlayerClient, options: BotOptions): Promise<void> {
  acceptInvitations(player, options);
  await player.attributes.set({ lantern: oneOf(LANTERNS, options.chance) });
  await pause(options, 1_500);
  if (options.lobby === "quayside" && options.chance() < 0.3)
    await player.chat("Who has stones to spare?").catch(ignored);
  if (options.chance() < LOOKS_ON) await lookOn(player, options).catch(ignored);
  if (options.lobby === "quayside" && (isFollower(player) || options.chance() < options.searches)) {
    return playMatch(player, options);
  }
  await gather(player, options);
  for (let run = 0; run < options.runsPerRoom && !options.signal.aborted; run++) {
    await untilCalled(player, options);
    await playRun(player, options.chance).catch(ignored);
    await player.until(({ room }) => room?.phase === "gathering" || room?.phase === "results");
    await pause(options, 2_500);
  }
  await player.leaveRoom();
  await player.leave();
}

/** Finds a crew by the queue, plays one run with it, and parts; some leave in the middle, and somebody else comes in. */
async function playMatch(player: PlayerClient, options: BotOptions): Promise<void> {
  const { chance } = options;
  if (!isFollower(player) && chance() < LEADS) await foundParty(player, options).catch(ignored);
  const hasFound = !isFollower(player) && (await findCrew(player, options));
  const isIn = hasFound || (isFollower(player) && (await follow(player, options).catch(ignored)));
  await part(player);
  if (isIn) {
    const leavesEarly = chance() < LEAVES_EARLY;
    // Who leaves in the middle is cut off by the game as well.
    const run = playRun(player, chance).catch(leavesEarly ? () => undefined : ignored);
    if (leavesEarly) await player.until(({ room }) => room === undefined || room.phase === "playing");
    else await run;
    await pause(options, 1_500);
    if (player.state.room) await player.leaveRoom();
  }
  await player.leave();
}

/** QuickJoins a room, hangs out a lantern on its board, and greets the others; those on its side by themselves. */
async function gather(player: PlayerClient, { chance, lobby }: BotOptions): Promise<void> {
  const kinds = KINDS[lobby];
  // Some care where it is played.
  const region = chance() < 0.3 ? { region: "north-quay" } : {};
  const { room } = await player.quickJoin({ kind: kinds[Math.floor(chance() * kinds.length)] ?? kinds[0], ...region });
  const { place = 0, side } = room.members[player.id] ?? {};
  await player.board.set(`beacon.${place}`, oneOf(LANTERNS, chance));
  await player.relay({ text: "ahoy" });
  if (side) await player.relay({ text: "our wall first" }, { side });
}

/** Does what there is to do until a run is called that was not played yet. */
async function untilCalled(player: PlayerClient, options: BotOptions): Promise<void> {
  const isCalled = () => ["travelling", "playing"].includes(player.state.room?.phase ?? "");
  for (const begin = Date.now(); !isCalled() && !options.signal.aborted; ) {
    if (Date.now() - begin > 180_000) throw new Error("the game closed: nobody has started for three minutes");
    await pause(options, 1_800);
    const { room } = player.state;
    if (room && !isCalled()) await act(player, room, options).catch(ignored);
  }
}

/** One thing a member does while it waits; the host also brings the room to its start. */
async function act(player: PlayerClient, room: RoomView, { chance }: BotOptions): Promise<unknown> {
  const me = room.members[player.id];
  const isHost = room.host === player.id;
  if (room.phase === "results" && isHost) return player.ask(chance() < 0.5 ? "room.again" : "room.gather", {});
  if (me === undefined || room.phase !== "gathering" || Object.keys(room.members).length < 2) return undefined;
  if (room.kind === "moonlight" && me.vote === undefined) return player.vote(oneOf(VOTED, chance));
  const governing = isHost ? govern(player, room, chance) : undefined;
  if (governing) return governing;
  if (room.turn?.holder === player.id && chance() < 0.3) return player.ask("room.pass-turn", {});
  const asking = Object.values(room.members).find((other) => other.swapWith === player.id);
  if (asking) return player.ask("room.swap", { with: asking.id });
  if (me.side && !me.swapWith && chance() < 0.15) return offerSwap(player, room, chance);
  if (!me.ready) return player.setReady(true);
  return room.missing.length === 0 && isHost ? player.start() : undefined;
}

/** What a host sees to before anything else; undefined when all is as it should be. */
function govern(player: PlayerClient, room: RoomView, chance: () => number): Promise<unknown> | undefined {
  if (room.level === undefined) {
    return player.changeRoom({ level: oneOf(LEVELS, chance), settings: { weather: oneOf(WEATHER, chance) } });
  }
  if (room.missing.some(({ code }) => code === "sides")) return player.ask("room.balance", {});
  return room.turn === undefined ? player.ask("room.pass-turn", { limitMs: 8_000 }) : undefined;
}

/** Offers somebody of another side to change. */
async function offerSwap(player: PlayerClient, room: RoomView, chance: () => number): Promise<unknown> {
  const mine = room.members[player.id]?.side;
  const others = Object.values(room.members).filter(({ side }) => side !== mine);
  return others.length === 0 ? undefined : player.ask("room.swap", { with: oneOf(others, chance).id });
}

const oneOf = <T>(list: readonly T[], chance: () => number): T => list[Math.floor(chance() * list.length)] as T;

/** Refusals are part of the play: somebody else was faster. */
const ignored = (error: unknown): undefined => {
  if (!(error instanceof ProblemError)) throw error;
  return undefined;
};
