import type { LevelView, LobbySummary, RegionView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import { table } from "../output/table.ts";

export function addLobby(program: Command): void {
  const lobby = program.command("lobby").description("list the lobbies, and the levels and regions that are played in");
  lobby
    .command("list")
    .description("list the lobbies in numbers")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.lobbies(), ({ lobbies }) => lobbyLines(lobbies, screen.width));
    });
  lobby
    .command("regions")
    .description("list the regions in which matches are played")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.regions(), ({ regions }) => regionLines(regions, screen.width));
    });
  lobby
    .command("levels")
    .description("list the levels of the game")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.levels(), ({ levels }) => levelLines(levels, screen.width));
    });
}

const lobbyLines = (lobbies: readonly LobbySummary[], width: number): string[] =>
  table(
    lobbies,
    [
      { heading: "LOBBY", value: ({ id }) => pc.bold(id) },
      { heading: "TITLE", value: ({ title }) => title },
      { heading: "IN LOBBY", value: ({ players }) => String(players), align: "right" },
      { heading: "SEARCHING", value: ({ searching }) => String(searching), align: "right" },
      { heading: "ROOMS", value: ({ rooms }) => String(rooms), align: "right" },
      { heading: "IN ROOMS", value: ({ inRooms }) => String(inRooms), align: "right" },
    ],
    width,
  );

function regionLines(regions: readonly RegionView[], width: number): string[] {
  if (regions.length === 0) return ["No regions are listed. The configuration lists them as regions.NAME."];
  return table(
    regions,
    [
      { heading: "REGION", value: ({ id }) => pc.bold(id) },
      { heading: "TITLE", value: ({ title }) => title ?? "-" },
      { heading: "ECHO", value: ({ echo }) => echo.join(", ") || "-" },
    ],
    width,
  );
}

const levelLines = (levels: readonly LevelView[], width: number): string[] =>
  table(
    levels,
    [
      { heading: "LEVEL", value: ({ id }) => pc.bold(id) },
      { heading: "TITLE", value: ({ title }) => title },
      { heading: "PLAYERS", value: ({ min, max }) => (min === max ? String(min) : `${min} to ${max}`) },
      {
        heading: "ATTRIBUTES",
        value: ({ attributes = [] }) => attributes.map(({ name, value }) => `${name} ${value}`).join(", ") || "-",
      },
    ],
    width,
  );
