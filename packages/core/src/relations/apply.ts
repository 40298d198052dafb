import type { PlayerId } from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import type { RelationEvent } from "../model/relations/events.ts";
import { isNamedSo, ofBackEnd, relationsOf } from "../model/relations/known.ts";
import type { Blocked, Relations } from "../model/relations/state.ts";
import type { RoomsPart } from "../model/state.ts";

export function applyRelation(state: RoomsPart, event: RelationEvent): void {
  const before = relationsOf(state, event.player);
  keep(state, event.player, changed(before, event));
}

function changed(before: Relations, event: RelationEvent): Relations {
  switch (event.kind) {
    case "friends.set": {
      const { friends = before.friends, blocked } = event;
      if (blocked === undefined) return { ...before, friends };
      const others = before.blocked.filter((one) => !ofBackEnd(one));
      return { ...before, friends, blocked: [...others, ...blocked.map((account) => blockedAs(account, before))] };
    }
    case "friends.hidden":
      return { ...before, hidden: event.hidden };
    case "blocks.added":
      return { ...before, blocked: [...before.blocked.filter((one) => !isSameAs(one, event.blocked)), event.blocked] };
    case "blocks.removed":
      return { ...before, blocked: before.blocked.filter((one) => !isNamedSo(one, event.who)) };
    default:
      return assertNever(event);
  }
}

const isSameAs = (one: Blocked, other: Blocked): boolean =>
  one.player === other.player && one.account === other.account && one.byAccount === other.byAccount;

/** An account that was blocked already keeps the name it is known by. */
const blockedAs = (account: string, { blocked }: Relations): Blocked =>
  blocked.find((one) => one.account === account) ?? { player: null, account, name: null, byAccount: true };

function keep({ relations: { byPlayer } }: RoomsPart, player: PlayerId, now: Relations): void {
  const isEmpty = now.friends.length === 0 && now.blocked.length === 0 && !now.hidden;
  if (isEmpty) byPlayer.delete(player);
  else byPlayer.set(player, now);
}

/** The player is gone: the game's back end says it anew when it comes again. */
export const forgetRelations = ({ relations }: RoomsPart, player: PlayerId): void =>
  void relations.byPlayer.delete(player);
