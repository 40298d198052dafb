import type { OperatorClient } from "@yellow-harbor/client";
import type { PlayerView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { table } from "../output/table.ts";
import { playerId } from "../who.ts";
import { banned } from "./ban.ts";
import { heard } from "./room-verbs.ts";

export function addPlayer(program: Command): void {
  const player = program
    .command("player")
    .description("list players, show one; kick, ban, notify, export or erase one");
  player
    .command("list")
    .description("list players by id")
    .option("--name <name>", "only players with this name")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 500), 100)
    .action(async (options: { limit: number; name?: string }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.players(options), ({ players, next }) =>
        render(players, next !== undefined, screen.width),
      );
    });
  player
    .command("show")
    .description("show a player, by name, id or account")
    .argument("<player>", "name, id or account (ISSUER:ACCOUNT)")
    .action(async (named: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const who = named.includes(":") ? named : await playerId(operator, named);
      screen.show(await operator.player(who), (one) => render([one], false, screen.width));
    });
  player
    .command("kick")
    .description("kick a player: it is told why, and its connection is closed")
    .argument("<player>", "name or id")
    .option("--reason <text>", "told to the player")
    .action(async (id: string, { reason }: { reason?: string }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const who = await playerId(operator, id);
      screen.show(await operator.kick(who, reason), () => [`${id} was kicked.`]);
    });
  player
    .command("ban")
    .description("ban a player's account, or the network of a guest without one; it is kicked and told why")
    .argument("<player>", "name or id")
    .option("--reason <text>", "told to the player")
    .option("--hours <number>", "hours until it ends; never when left out", wholeNumber("--hours", 1, 87_600))
    .action(async (id: string, options: { reason?: string; hours?: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.banPlayer(await playerId(operator, id), options), banned);
    });
  player
    .command("export")
    .description("print all that is kept of a person, as JSON")
    .argument("<who>", "account such as game:4711, or name or id of a player who is here")
    .action(async (who: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.jsonLine(await operator.exportPerson(await personOf(operator, who)));
    });
  player
    .command("erase")
    .description("replace the names and the account of a person in all that is kept; who is here is kicked")
    .argument("<who>", "account such as game:4711, or name or id of a player who is here")
    .requiredOption("--yes", "it cannot be undone, but by restoring a backup")
    .action(async (who: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.erasePerson(await personOf(operator, who)), ({ players, events }) => [
        `${who} is erased from ${events} events, as ${players.length === 1 ? "1 player" : `${players.length} players`}.`,
        "Backups and the audit log that were made before still have it.",
      ]);
    });
  player
    .command("notify")
    .description("send a notice to a player, to all players of a lobby, or to everybody")
    .argument("<player>", "name or id, or all")
    .argument("<text...>", "the notice")
    .option("--lobby <name>", "with all: only players of that lobby")
    .action(async (id: string, words: string[], { lobby }: { lobby?: string }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const text = words.join(" ");
      screen.show(
        id === "all"
          ? await operator.notifyAll(text, lobby)
          : await operator.notifyPlayer(await playerId(operator, id), text),
        heard,
      );
    });
}

/** An account as it is; what is none is a player who is here. */
const personOf = async (operator: OperatorClient, who: string): Promise<string> =>
  who.includes(":") ? who : playerId(operator, who);

function render(players: readonly PlayerView[], hasMore: boolean, width: number): string[] {
  if (players.length === 0) return ["No players. yh play --name Ansel brings one."];
  const lines = table(
    players,
    [
      { heading: "PLAYER", value: (one) => pc.bold(one.id) },
      { heading: "NAME", value: (one) => one.name },
      { heading: "PRESENCE", value: (one) => (one.presence === "away" ? pc.yellow("away") : "here") },
      { heading: "LOBBY", value: (one) => one.lobby },
      { heading: "ROOM", value: (one) => one.room ?? "-" },
      ...(players.some(({ party }) => party !== undefined)
        ? [{ heading: "PARTY", value: (one: PlayerView) => one.party ?? "-" }]
        : []),
      {
        heading: "LATENCY",
        value: ({ latencyMs, jitterMs }) => (latencyMs === undefined ? "-" : `${latencyMs} ms ±${jitterMs}`),
        align: "right",
      },
      { heading: "BUILD", value: (one) => one.build },
    ],
    width,
  );
  const count = `${players.length} ${players.length === 1 ? "player" : "players"}`;
  return [...lines, pc.dim(hasMore ? `${count}, and more: raise --limit` : count)];
}
