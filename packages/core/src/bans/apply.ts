import type { BanId } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import type { BanEvent } from "../model/bans/events.ts";
import { assertNever } from "../model/decision.ts";
import type { RoomsPart } from "../model/state.ts";

export function applyBan(state: RoomsPart, event: BanEvent): void {
  switch (event.kind) {
    case "ban.set": {
      const { ban } = event;
      const { byAccount, byNetwork } = state.bans;
      const former = "account" in ban ? byAccount.get(ban.account) : byNetwork.get(ban.network);
      if (former !== undefined) forget(state, former);
      state.bans.byId.set(ban.id, ban);
      if ("account" in ban) byAccount.set(ban.account, ban.id);
      else byNetwork.set(ban.network, ban.id);
      if (ban.untilMs !== null) setDeadline(state.deadlines, "ban-end", ban.id, ban.untilMs);
      return;
    }
    case "ban.lifted":
    case "ban.ended":
      return forget(state, event.ban);
    default:
      assertNever(event);
  }
}

function forget({ bans, deadlines }: RoomsPart, id: BanId): void {
  const ban = bans.byId.get(id);
  if (ban === undefined) return;
  bans.byId.delete(id);
  if ("account" in ban) bans.byAccount.delete(ban.account);
  else bans.byNetwork.delete(ban.network);
  clearDeadline(deadlines, "ban-end", id);
}
