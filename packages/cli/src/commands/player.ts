import type { PlayerView, RelationsView } from "@yellow-harbor/protocol";
import { type Command, Option } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { table } from "../output/table.ts";
import { personNamed, playerId } from "../who.ts";
import { banned } from "./ban.ts";
import { addPlayerHistory } from "./player-history.ts";
import { reportLines } from "./player-reports.ts";
import { heard } from "./room-verbs.ts";

export function addPlayer(program: Command): void {
  const player = program
    .command("player")
    .description("list players, show one and what happened to it; kick, ban, notify, export or erase one");
  player
    .command("list")
    .description("list players by id")
    .option("--name <name>", "only players with this name")
    .option("--search <text>", "only players whose name, id or account has this in it")
    .option("--lobby <name>", "only players of this lobby, in rooms or not")
    .addOption(new Option("--presence <presence>", "only those who are here, or away").choices(["here", "away"]))
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 500), 100)
    .action(
      async (
        options: { limit: number; name?: string; search?: string; lobby?: string; presence?: "here" | "away" },
        command: Command,
      ) => {
        const { screen, operator } = contextOf(command);
        const { limit: _, ...narrowed } = options;
        screen.show(await operator.players(options), ({ players, next }) =>
          players.length === 0 && Object.keys(narrowed).length > 0
            ? ["No player fits. yh player list shows all."]
            : render(players, next !== undefined, screen.width),
        );
      },
    );
  player
    .command("show")
    .description("show a player, by name, id or account")
    .argument("<player>", "name, id or account (ISSUER:ACCOUNT)")
    .action(async (named: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.player(await personNamed(operator, named)), (one) =>
        render([one], false, screen.width),
      );
    });
  addPlayerHistory(player);
  player
    .command("relations")
    .description("show whom a player knows and has blocked, by the word of the game's back end and its own")
    .argument("<player>", "name, id or account (ISSUER:ACCOUNT)")
    .action(async (named: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.relations(await personNamed(operator, named)), relationLines);
    });
  player
    .command("set-relations")
    .description("say whom a player knows, or has blocked, as the game's back end does; it holds while it is here")
    .argument("<player>", "name, id or account (ISSUER:ACCOUNT)")
    .option("--friends <accounts>", "accounts, with commas between them; none for nobody", accountList)
    .option("--blocked <accounts>", "accounts, with commas between them; none for nobody", accountList)
    .action(async (named: string, set: { friends?: string[]; blocked?: string[] }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.setRelations(await personNamed(operator, named), set), relationLines);
    });
  player
    .command("reports")
    .description("list what players told of each other's conduct, the newest first")
    .argument("[player]", "only of this one: name, id or account (ISSUER:ACCOUNT)")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 200), 20)
    .action(async (named: string | undefined, { limit }: { limit: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const about = named === undefined ? {} : { about: await personNamed(operator, named) };
      screen.show(await operator.reports({ limit, ...about }), (list) => reportLines(list, screen));
    });
  player
    .command("move")
    .description("move a player to another lobby: one who is in no room, and neither searches nor is in a party")
    .argument("<player>", "name, id or account (ISSUER:ACCOUNT)")
    .argument("<lobby>", "lobby; yh lobby list lists them")
    .action(async (named: string, lobby: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const moved = await operator.moveToLobby(await personNamed(operator, named), lobby);
      screen.show(moved, ({ name }) => [`${name} is in ${lobby} now.`]);
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
      screen.jsonLine(await operator.exportPerson(await personNamed(operator, who)));
    });
  player
    .command("erase")
    .description("replace the names and the account of a person in all that is kept; who is here is kicked")
    .argument("<who>", "account such as game:4711, or name or id of a player who is here")
    .requiredOption("--yes", "it cannot be undone, but by restoring a backup")
    .action(async (who: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.erasePerson(await personNamed(operator, who)), ({ players, events }) => [
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

const accountList = (typed: string): string[] => (typed === "none" ? [] : typed.split(",").map((one) => one.trim()));

function relationLines({ player, name, friends, blocked, hidden }: RelationsView): string[] {
  const names = blocked.map(({ name, account, player: id }) => name ?? account ?? id);
  return [
    `${pc.bold(name)} (${player}) knows ${friends.length === 0 ? "nobody" : friends.join(", ")}.`,
    `Has blocked ${names.length === 0 ? "nobody" : names.join(", ")}.`,
    ...(hidden ? ["Does not want friends to see where it is."] : []),
  ];
}

/** An account as it is; what is none is a player who is here. */
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
