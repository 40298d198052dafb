import { ProblemError } from "@yellow-harbor/client";
import type { SetResult } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import { contextOf } from "../context.ts";
import { memberId } from "../who.ts";

interface Reasoned {
  readonly reason?: string;
}

const ROOM = ["<room>", "code or id"] as const;
const PLAYER = ["<player>", "name or id; yh room show and yh player list show them"] as const;
const REASON = ["--reason <text>", "told to whom it concerns"] as const;

/** What operators do to a room. */
export function addRoomVerbs(room: Command): void {
  room
    .command("close")
    .description("close a room; its members are in the lobby again")
    .argument(...ROOM)
    .option(...REASON)
    .action(async (id: string, { reason }: Reasoned, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.closeRoom(id, reason), () => [`Room ${id} is closed.`]);
    });
  room
    .command("abort-travel")
    .description("abort a room's travel; everybody is where they were, ready as they were")
    .argument(...ROOM)
    .option(...REASON)
    .action(async (id: string, { reason }: Reasoned, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.abortTravel(id, reason), () => [`The travel of room ${id} was aborted.`]);
    });
  room
    .command("kick")
    .description("kick a member from a room")
    .argument(...ROOM)
    .argument(...PLAYER)
    .option(...REASON)
    .option("--ban", "and ban it, so that it cannot join again")
    .action(async (id: string, player: string, options: Reasoned & { ban?: boolean }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const who = await memberId(operator, id, player);
      const how = options.ban ? " for good" : "";
      screen.show(await operator.kickFromRoom(id, who, options), () => [`${player} was kicked from room ${id}${how}.`]);
    });
  room
    .command("ban")
    .description("ban a player from a room, whether it is in it or not")
    .argument(...ROOM)
    .argument(...PLAYER)
    .option(...REASON)
    .action(async (id: string, player: string, { reason }: Reasoned, command: Command) => {
      const { screen, operator } = contextOf(command);
      const who = await memberId(operator, id, player);
      screen.show(await operator.banFromRoom(id, who, reason), () => [`${player} is banned from room ${id}.`]);
    });
  room
    .command("unban")
    .description("lift a ban")
    .argument(...ROOM)
    .argument(...PLAYER)
    .action(async (id: string, player: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const who = await memberId(operator, id, player);
      screen.show(await operator.unbanFromRoom(id, who), () => [`${player} may come into room ${id} again.`]);
    });
  room
    .command("hand-over")
    .description("make another member the host")
    .argument(...ROOM)
    .argument(...PLAYER)
    .action(async (id: string, player: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const who = await memberId(operator, id, player);
      screen.show(await operator.handOverRoom(id, who), () => [`${player} is host of room ${id} now.`]);
    });
  room
    .command("backfill")
    .description("have the queue of a playing room replace players who left")
    .argument(...ROOM)
    .option("--stop", "stop looking", false)
    .action(async (id: string, { stop }: { stop: boolean }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.backfillRoom(id, !stop), () => [
        stop ? `The queue looks for nobody for room ${id} any more.` : `The queue looks for players for room ${id}.`,
      ]);
    });
  room
    .command("notify")
    .description("send a notice to the members of a room")
    .argument(...ROOM)
    .argument("<text...>", "the notice")
    .action(async (id: string, words: string[], _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.notifyRoom(id, words.join(" ")), heard);
    });
  room
    .command("result")
    .description("set the result of a room's run, where the operator decides it")
    .argument(...ROOM)
    .argument("<standings>", 'JSON: [{"player": "p_...", "score": 3}, ...]')
    .option("--note <text>", "note that is shown with the result")
    .option("--sides <json>", 'JSON: a score for each side, such as {"north": 31, "south": 28}')
    .option("--payload <json>", "any JSON that the game keeps of the run")
    .action(async (id: string, standings: string, more: ResultOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      const outcome: SetResult = {
        standings: parsed(standings, 'The standings are not JSON; give [{"player": "p_...", "score": 3}].'),
        ...(more.note !== undefined && { note: more.note }),
        ...(more.sides !== undefined && { sides: parsed(more.sides, '--sides is not JSON; give {"north": 31}.') }),
        ...(more.payload !== undefined && { payload: parsed(more.payload, "--payload is not JSON.") }),
      };
      screen.show(await operator.setResult(id, outcome), () => [`The result of room ${id} is set.`]);
    });
}

export const heard = ({ delivered }: { delivered: number }): string[] => [
  `${delivered} ${delivered === 1 ? "player has" : "players have"} been told.`,
];

interface ResultOptions {
  readonly note?: string;
  readonly sides?: string;
  readonly payload?: string;
}

/** JSON as it was typed; whether it is what is expected the service says. */
function parsed<T>(text: string, otherwise: string): T {
  try {
    return JSON.parse(text) as T;
  } catch {
    throw ProblemError.of("usage", otherwise);
  }
}
