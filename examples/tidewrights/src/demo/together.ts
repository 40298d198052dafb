import { type PlayerClient, ProblemError } from "@yellow-harbor/client";
import { goAboard } from "../game/play.ts";
import { type BotOptions, pause } from "./bot.ts";
import { brought, untilMatched } from "./search.ts";

const ACCEPTS = 0.8;
const COMPANIONS = 2;
const FOLLOWS_MS = 60_000;
const WATCHES_MS = 25_000;

/** Accepts some of the invitations into parties that come while the bot has nothing else to do. */
export function acceptInvitations(player: PlayerClient, { chance }: BotOptions): void {
  player.on("partyInvited", ({ party }) => {
    const isFree = player.state.room === undefined && player.parties.own === undefined && !player.ticket?.confirm;
    if (isFree && chance() < ACCEPTS) void joinInstead(player, { party, ...brought(chance) }).catch(() => undefined);
  });
}

/** Stops searching alone, and joins. */
async function joinInstead(player: PlayerClient, wanted: { readonly party: string }): Promise<void> {
  if (player.ticket) await player.cancelSearch();
  await player.parties.join(wanted);
}

/** Founds a party and asks some of the lobby to join it; false when nobody has. */
export async function foundParty(player: PlayerClient, options: BotOptions): Promise<boolean> {
  const others = Object.values(player.state.lobby?.players ?? {}).filter(({ id }) => id !== player.id);
  if (others.length === 0) return false;
  await player.parties.open(brought(options.chance));
  const first = Math.floor(options.chance() * others.length);
  const asked = [...others.slice(first), ...others.slice(0, first)].slice(0, COMPANIONS);
  for (const { id } of asked) await player.parties.invite({ player: id }).catch(() => undefined);
  await pause(options, 3_000);
  if ((player.parties.own?.members.length ?? 1) > 1) return true;
  await player.parties.leave();
  return false;
}

/** Whether the bot goes along with somebody else's party. */
export const isFollower = ({ parties: { own }, id }: PlayerClient): boolean => own !== undefined && own.leader !== id;

/** Goes where the leader goes, and answers for a match that is found; false when it came to nothing. */
export async function follow(player: PlayerClient, options: BotOptions): Promise<boolean> {
  const untilMs = Date.now() + FOLLOWS_MS;
  while (!options.signal.aborted && player.state.room === undefined && isFollower(player) && Date.now() < untilMs) {
    await untilMatched(player, options);
    await pause(options, 1_000);
  }
  return player.state.room !== undefined;
}

/** Looks on in a room of the lobby for a while, and at its run where there is one. */
export async function lookOn(player: PlayerClient, options: BotOptions): Promise<void> {
  const { rooms } = await player.listRooms({ filter: { kind: options.lobby === "quayside" ? "crews" : "two-crews" } });
  const room = rooms[Math.floor(options.chance() * rooms.length)];
  if (room === undefined) return;
  await player.watchRoom({ room: room.id });
  const pass = await player.nextPass(WATCHES_MS).catch(() => undefined);
  if (pass) await (await goAboard(pass)).play().catch(() => undefined);
  if (player.state.room) await player.leaveRoom();
}

/** Leaves the party, where the bot is in one. */
export async function part(player: PlayerClient): Promise<void> {
  if (player.parties.own === undefined) return;
  await player.parties.leave().catch((error: unknown) => {
    if (!(error instanceof ProblemError)) throw error;
  });
}
