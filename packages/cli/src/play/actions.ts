import type { Actions } from "./actions/action.ts";
import { lobbyActions } from "./actions/lobby.ts";
import { roomActions } from "./actions/room.ts";
import { runActions } from "./actions/run.ts";
import { searchActions } from "./actions/search.ts";
import { travelActions } from "./actions/travel.ts";

export const actions: Actions = { ...lobbyActions, ...searchActions, ...roomActions, ...runActions, ...travelActions };

export const helpLines = (): string[] => {
  const widest = Math.max(...Object.values(actions).map(({ usage }) => usage.length));
  return Object.values(actions).map(({ usage, about }) => `${usage.padEnd(widest)}  ${about}`);
};
