import {
  BLOCKED_MAX,
  type PlayerId,
  type PlayerReply,
  type RelationsView,
  type ReservedFor,
  type SetRelations,
} from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../model/decision.ts";
import { ownerOf } from "../model/find-player.ts";
import { decideBy } from "../model/handlers.ts";
import type { Player } from "../model/players/state.ts";
import type { RelationCommand } from "../model/relations/commands.ts";
import type { RelationEvent } from "../model/relations/events.ts";
import { isMeant, isNamedSo, ofBackEnd, relationsOf } from "../model/relations/known.ts";
import type { Blocked } from "../model/relations/state.ts";
import type { Done } from "../model/replies.ts";
import type { RoomsPart } from "../model/state.ts";
import { blockedViews, relationsView } from "./view.ts";

type Doing<K extends RelationCommand["do"]> = Extract<RelationCommand, { do: K }>;

export const decideRelation = decideBy<RelationCommand, RoomsPart>({
  "friends.set": set,
  "friends.forget": forget,
  "friends.hide": hide,
  "blocks.add": block,
  "blocks.remove": unblock,
});

function set({ state }: RoomsContext, { player: id, set: told }: Doing<"friends.set">): Decision<RelationsView> {
  if (!state.players.byId.has(id)) return unknown(id);
  return accept(setEvents(state, id, told), { reply: (after) => relationsView(after, id) });
}

/** What of it is other than before. */
export function setEvents(state: RoomsPart, player: PlayerId, { friends, blocked }: SetRelations): RelationEvent[] {
  const before = relationsOf(state, player);
  const isSame = (now: readonly string[] | undefined, then: readonly (string | null)[]) =>
    now === undefined || JSON.stringify(now) === JSON.stringify(then);
  if (
    isSame(friends, before.friends) &&
    isSame(
      blocked,
      before.blocked.filter(ofBackEnd).map(({ account }) => account),
    )
  )
    return [];
  return [{ kind: "friends.set", player, ...(friends && { friends }), ...(blocked && { blocked }) }];
}

function forget({ state }: RoomsContext, { account, players }: Doing<"friends.forget">): Decision {
  const isGone = (one: Blocked) => one.account === account || players.includes(one.player ?? "");
  return accept(
    [...state.relations.byPlayer].flatMap(([player, { friends, blocked }]): RelationEvent[] => {
      const kept = friends.filter((one) => one !== account);
      const gone = blocked.filter((one) => (account !== undefined || one.account === null) && isGone(one));
      return [
        ...(kept.length === friends.length ? [] : [{ kind: "friends.set" as const, player, friends: kept }]),
        ...gone.map((one) => ({ kind: "blocks.removed" as const, player, who: namedAs(one) })),
      ];
    }),
  );
}

const namedAs = ({ player, account }: Blocked): ReservedFor =>
  player === null ? { account: account ?? "" } : { player };

function hide({ state }: RoomsContext, { player, args: { hidden } }: Doing<"friends.hide">): Decision<Done> {
  if (!state.players.byId.has(player)) return unknown(player);
  const isSo = relationsOf(state, player).hidden === hidden;
  return accept(isSo ? [] : [{ kind: "friends.hidden", player, hidden }], { reply: () => ({}) });
}

type BlockedReply = PlayerReply<"blocks.add">;

const listed =
  (player: PlayerId) =>
  (after: RoomsPart): BlockedReply => ({ blocked: blockedViews(after, player) });

function block({ state }: RoomsContext, { player: id, args }: Doing<"blocks.add">): Decision<BlockedReply> {
  const { chatOnly = false, ...who } = args;
  const found = state.players.byId.get(id);
  if (found === undefined) return unknown(id);
  const { blocked } = relationsOf(state, id);
  const whom = ownerOf(state, who);
  const known = blocked.find((one) => isNamedSo(one, who) || ("player" in who && whom && isMeant(one, whom)));
  if (known && (known.chatOnly ?? false) === chatOnly) return accept([], { reply: listed(id) });
  const against = whyNotBlock(found, who, whom);
  if (against) return against;
  if (known === undefined && blocked.length >= BLOCKED_MAX) {
    return refuse(
      "too-many-blocked",
      `You have blocked ${blocked.length} already, which is the most; remove one first.`,
    );
  }
  const now: Blocked = { ...(known ?? blockedOf(who, whom)) };
  const { chatOnly: _, ...rest } = now;
  const event: RelationEvent = { kind: "blocks.added", player: id, blocked: chatOnly ? { ...rest, chatOnly } : rest };
  return accept([event], { reply: listed(id) });
}

/** Of an account that is not known here nothing is told: it is blocked all the same. */
function whyNotBlock(player: Player, who: ReservedFor, whom: Player | undefined): Refusal | undefined {
  if (whom?.id === player.id) return refuse("not-yourself", "You cannot block yourself.");
  if ("player" in who && whom === undefined) {
    return refuse("player-unknown", `There is no player ${who.player}; it has left.`);
  }
  return undefined;
}

const blockedOf = (who: ReservedFor, whom: Player | undefined): Blocked =>
  "account" in who
    ? { player: null, account: who.account, name: null, byAccount: true }
    : { player: who.player, account: whom?.identity?.account ?? null, name: whom?.name ?? null, byAccount: false };

function unblock({ state }: RoomsContext, { player, args: who }: Doing<"blocks.remove">): Decision<BlockedReply> {
  if (!state.players.byId.has(player)) return unknown(player);
  const isThere = relationsOf(state, player).blocked.some((one) => isNamedSo(one, who));
  return accept(isThere ? [{ kind: "blocks.removed", player, who }] : [], { reply: listed(player) });
}

const unknown = (player: PlayerId) => refuse("player-unknown", `There is no player ${player}; it has left.`);
