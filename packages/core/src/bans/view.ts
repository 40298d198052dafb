import type { BanId, BanView } from "@yellow-harbor/protocol";
import type { Ban } from "../model/bans/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { networkText } from "./network.ts";

export function banView(ban: Ban): BanView {
  const { id, reason, by, atMs, untilMs } = ban;
  const subject =
    "account" in ban ? { account: ban.account } : { network: networkText(ban.network), everybody: ban.everybody };
  return { id, ...subject, ...(reason !== null && { reason }), by, atMs, ...(untilMs !== null && { untilMs }) };
}

/** Bans in the order of their ids. */
export function banPage(
  { bans }: RoomsPart,
  { limit, after }: { readonly limit: number; readonly after?: string | undefined },
): { readonly bans: BanView[]; readonly next?: BanId } {
  const ids = [...bans.byId.keys()].filter((id) => after === undefined || id > after).sort();
  const page = ids.slice(0, limit).flatMap((id) => bans.byId.get(id) ?? []);
  const last = page.at(-1);
  return { bans: page.map(banView), ...(ids.length > limit && last && { next: last.id }) };
}
