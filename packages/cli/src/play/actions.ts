import type { Actions } from "./actions/action.ts";
import { directoryActions } from "./actions/directory.ts";
import { invitingActions } from "./actions/inviting.ts";
import { lobbyActions } from "./actions/lobby.ts";
import { partyActions } from "./actions/parties.ts";
import { privateActions } from "./actions/private.ts";
import { regionActions } from "./actions/regions.ts";
import { relationActions } from "./actions/relations.ts";
import { roomActions } from "./actions/room.ts";
import { runActions } from "./actions/run.ts";
import { searchActions } from "./actions/search.ts";
import { travelActions } from "./actions/travel.ts";

/** Puts verbs beside each other. Where a name is there already this does not compile: one of the two would never be heard. */
const beside = <A extends object, B extends object>(known: A, more: keyof A & keyof B extends never ? B : never) => ({
  ...known,
  ...more,
});

export const actions: Actions = beside(
  beside(
    beside(beside(beside(beside(lobbyActions, searchActions), roomActions), invitingActions), partyActions),
    runActions,
  ),
  beside(beside(travelActions, relationActions), beside(privateActions, beside(regionActions, directoryActions))),
);

export const helpLines = (): string[] => {
  const widest = Math.max(...Object.values(actions).map(({ usage }) => usage.length));
  return Object.values(actions).map(({ usage, about }) => `${usage.padEnd(widest)}  ${about}`);
};
