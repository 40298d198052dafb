import type { AccountId, BlockedView, FriendView, PlayerId, RelationsView } from "@yellow-harbor/protocol";
import type { HarborEvent } from "../model/event.ts";
import type { FriendsChange } from "../model/friends-change.ts";
import type { Player } from "../model/players/state.ts";
import { friendSeen, relationsOf } from "../model/relations/known.ts";
import type { Blocked } from "../model/relations/state.ts";
import type { RoomEvent } from "../model/rooms/events.ts";
import { mayFollow } from "../model/rooms/following.ts";
import type { Room } from "../model/rooms/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { rooms } from "../rooms/index.ts";

/** Those a player knows who are in the harbor and let it see them. */
export function friendsOf(state: RoomsPart, seer: PlayerId): FriendView[] {
  const player = state.players.byId.get(seer);
  if (player === undefined) return [];
  return relationsOf(state, seer).friends.flatMap((account) => {
    const friend = friendSeen(state, player, account);
    return friend ? [friendView(state, friend, account)] : [];
  });
}

function friendView(state: RoomsPart, { id, name, presence, lobby, room: at }: Player, account: AccountId): FriendView {
  const room = state.rooms.byId.get(at ?? "");
  return { account, player: id, name, presence, lobby, ...(room && { room: friendRoom(room, id) }) };
}

function friendRoom(room: Room, friend: PlayerId): NonNullable<FriendView["room"]> {
  const { id, name, kind, stage } = room;
  const isFollowable = mayFollow(room);
  return {
    ...(isFollowable && { id, name }),
    kind,
    phase: stage.phase,
    isOpen: isFollowable && rooms.views.listing(room).isOpen,
    ...(room.spectators.has(friend) && { watches: true }),
  };
}

/** How an event that was just applied changes what others see of their friends. */
export function friendsChange(state: RoomsPart, event: HarborEvent): FriendsChange | undefined {
  if (event.kind === "player.left") return { seen: [], left: event.player };
  if (event.kind === "friends.set" || event.kind === "blocks.added" || event.kind === "blocks.removed") {
    const { player } = event;
    const accounts = relationsOf(state, player).friends;
    return { seen: seenNow(state, [player]), friendsOf: { player, accounts, friends: friendsOf(state, player) } };
  }
  const touched = touchedBy(state, event);
  return touched.length === 0 ? undefined : { seen: seenNow(state, touched) };
}

function seenNow(state: RoomsPart, players: readonly PlayerId[]): FriendsChange["seen"] {
  return players.flatMap((id) => {
    const player = state.players.byId.get(id);
    const account = player?.identity?.account;
    if (player === undefined || account === undefined) return [];
    const { hidden, blocked } = relationsOf(state, id);
    const unseen = blocked.filter(({ chatOnly }) => !chatOnly);
    const hiddenFrom = unseen.flatMap((one) => state.players.byAccount.get(one.account ?? "") ?? one.player ?? []);
    return [{ account, view: hidden ? undefined : friendView(state, player, account), hiddenFrom }];
  });
}

const OF_A_PLAYER: ReadonlySet<HarborEvent["kind"]> = new Set<HarborEvent["kind"]>([
  "player.connected",
  "player.resumed",
  "player.identified",
  "player.lost",
  "player.lobby-switched",
  "friends.hidden",
  "room.watched",
  "room.unwatched",
]);

function touchedBy(state: RoomsPart, event: HarborEvent): PlayerId[] {
  if (OF_A_PLAYER.has(event.kind) && "player" in event) return [event.player as PlayerId];
  if (!event.kind.startsWith("room.") || !rooms.directory.isSeen(event as RoomEvent)) return [];
  const { room: id } = event as RoomEvent;
  const room = state.rooms.byId.get(id);
  const of = "player" in event && typeof event.player === "string" ? [event.player] : [];
  return [...new Set([...of, ...(room ? [...room.members.keys(), ...room.spectators.keys()] : [])])];
}

const blockedView = ({ player, account, name, byAccount, chatOnly }: Blocked): BlockedView => ({
  ...(player !== null && { player }),
  ...(account !== null && byAccount && { account }),
  ...(name !== null && { name }),
  ...(chatOnly && { chatOnly }),
});

/** As the player itself sees them: of an account it learns nothing that it has not said. */
export const blockedViews = (state: RoomsPart, player: PlayerId): BlockedView[] =>
  relationsOf(state, player).blocked.map(blockedView);

/** As the game's back end sees them. */
export function relationsView(state: RoomsPart, player: PlayerId): RelationsView {
  const { friends, blocked, hidden } = relationsOf(state, player);
  const views = blocked.map((one) => ({ ...blockedView(one), ...(one.account !== null && { account: one.account }) }));
  const { name = "" } = state.players.byId.get(player) ?? {};
  return { player, name, friends: [...friends], blocked: views, hidden };
}
