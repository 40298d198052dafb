import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import { playerId } from "../who.ts";

/** Answers to "why?", in plain words with what they were made from. */
export function addExplain(program: Command): void {
  const explain = program.command("explain").description("explain why something is as it is");
  explain
    .command("room")
    .description("explain why a room can or cannot start, and what it waits for")
    .argument("<room>", "code or id")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.explainRoom(id), ({ text }) => text);
    });
  explain
    .command("travel")
    .description("explain whom a room's travel waits for, since when, and what happens next")
    .argument("<room>", "code or id")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.explainTravel(id), ({ text }) => text);
    });
  explain
    .command("ticket")
    .description("explain why a ticket is still waiting, with the numbers")
    .argument("<ticket>", "id of the ticket, or name or id of a player of it")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(
        await operator.explainTicket(id.startsWith("t_") ? id : await playerId(operator, id)),
        ({ text }) => text,
      );
    });
  explain
    .command("pool")
    .description("explain how many instances a pool should run, with the arithmetic")
    .argument("<pool>", "name")
    .action(async (name: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.explainPool(name), ({ text }) => text);
    });
  explain
    .command("instance")
    .description("explain why an instance runs on its machine, and what stood against the others")
    .argument("<instance>", "id; yh instance list shows them")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.explainInstance(id), ({ text }) => text);
    });
  explain
    .command("match")
    .description("explain why a match was made: which tickets, which sides, how good")
    .argument("<match>", "id of the match, or of its room")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.explainMatch(id), ({ text }) => text);
    });
  explain
    .command("join")
    .description("explain why a player can or cannot join a room, and what would change that")
    .argument("<player>", "name or id; yh player list shows them")
    .argument("<room>", "code or id")
    .action(async (player: string, id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.explainJoin(id, await playerId(operator, player)), ({ canJoin, against, text }) =>
        canJoin ? text : against.map((row, n) => `${text[n]}  ${pc.dim(row.code)}`),
      );
    });
}
