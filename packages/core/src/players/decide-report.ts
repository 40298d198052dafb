import { accept, type Decision, type RoomsContext, refuse } from "../model/decision.ts";
import type { PlayerCommand } from "../model/players/commands.ts";
import type { PlayerEvent } from "../model/players/events.ts";
import type { Done } from "../model/replies.ts";
import { runOf } from "../model/rooms/state.ts";

/** Tells of somebody's conduct, whether it is still here or was heard lately. */
export function report(
  { state }: RoomsContext,
  { player: id, args, heard }: Extract<PlayerCommand, { do: "player.report" }>,
): Decision<Done> {
  const by = state.players.byId.get(id);
  if (by === undefined) return refuse("player-unknown", "The player has left; connect again.");
  if (args.player === id) return refuse("not-yourself", "You cannot report yourself.");
  const whom = state.players.byId.get(args.player);
  if (whom === undefined && heard === undefined) {
    return refuse("player-unknown", `There is no player ${args.player}, and none has said anything lately.`);
  }
  const room = by.room === null ? undefined : state.rooms.byId.get(by.room);
  const run = room && runOf(room);
  const account = whom?.identity?.account ?? heard?.account;
  const event: PlayerEvent = {
    kind: "player.reported",
    player: { id: args.player, name: whom?.name ?? heard?.name ?? "", ...(account !== undefined && { account }) },
    by: { id, name: by.name, ...(by.identity && { account: by.identity.account }) },
    reason: args.reason,
    ...(args.text !== undefined && { text: args.text }),
    lobby: by.lobby,
    ...(room && { room: room.id }),
    ...(run != null && { run }),
    said: heard?.said ?? [],
  };
  return accept([event], { reply: () => ({}) });
}
