import { type AccountId, isDevice, type PlayerId, type ReservedFor } from "@yellow-harbor/protocol";
import type { Player } from "../players/state.ts";
import type { RoomsPart } from "../state.ts";
import { type Blocked, NO_RELATIONS, type Relations } from "./state.ts";

type WithRelations = Pick<RoomsPart, "relations">;
type Known = Pick<Player, "id" | "identity">;

export const relationsOf = ({ relations }: WithRelations, player: PlayerId): Relations =>
  relations.byPlayer.get(player) ?? NO_RELATIONS;

/** Whether a player knows an account, by the word of the game's back end. */
export const knows = (state: WithRelations, player: PlayerId, account: AccountId | undefined): boolean =>
  account !== undefined && relationsOf(state, player).friends.includes(account);

/** Whether somebody is meant by what was blocked. */
export const isMeant = ({ player, account }: Blocked, { id, identity }: Known): boolean =>
  player === id || (account !== null && account === identity?.account);

/** Whether a player wants to hear nothing of another. */
export const hasBlocked = (state: WithRelations, player: PlayerId, other: Known): boolean =>
  relationsOf(state, player).blocked.some((one) => !one.chatOnly && isMeant(one, other));

/** Whether a player wants to hear nothing that another says. */
export const isDeafTo = (state: WithRelations, player: PlayerId, other: Known): boolean =>
  relationsOf(state, player).blocked.some((one) => isMeant(one, other));

/** Whether what was blocked is what somebody names. Whose account somebody has is learnt by no guess. */
export const isNamedSo = (one: Blocked, who: ReservedFor): boolean =>
  "account" in who ? one.byAccount && one.account === who.account : one.player === who.player;

/** Whether the game's back end may say so: of those without an account of the game it knows nothing. */
export const ofBackEnd = ({ account }: Blocked): boolean => account !== null && !isDevice(account);

/** Whether a player hears of an invitation: that depends on what it has muted, and on who invites. */
export function hearsInvitation(
  state: WithRelations & Pick<RoomsPart, "players">,
  invited: Pick<Player, "id" | "invitesMuted" | "invitesOfFriends">,
  by: PlayerId | undefined,
): boolean {
  const inviter = by === undefined ? undefined : state.players.byId.get(by);
  if (inviter && hasBlocked(state, invited.id, inviter)) return false;
  if (!invited.invitesMuted) return true;
  return invited.invitesOfFriends === true && knows(state, invited.id, inviter?.identity?.account);
}

/** Whether it hears of the end of one: that does not say who had invited. */
export const hearsEnds = ({
  invitesMuted,
  invitesOfFriends,
}: Pick<Player, "invitesMuted" | "invitesOfFriends">): boolean => !invitesMuted || invitesOfFriends === true;

/** The player that a friend is, where another may see it: it is here, hides from nobody and has not blocked the other. */
export function friendSeen(
  state: WithRelations & Pick<RoomsPart, "players">,
  seer: Known,
  account: AccountId,
): Player | undefined {
  const { players } = state;
  const friend = players.byId.get(players.byAccount.get(account) ?? "");
  if (friend === undefined || !knows(state, seer.id, account)) return undefined;
  return relationsOf(state, friend.id).hidden || hasBlocked(state, friend.id, seer) ? undefined : friend;
}
