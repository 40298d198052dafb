import { type BanView, isDevice } from "@yellow-harbor/protocol";
import type { BanCommand } from "../model/bans/commands.ts";
import type { Ban, BanSubject } from "../model/bans/state.ts";
import { accept, type Decision, nothingToDo, type Refusal, type RoomsContext, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { Identity } from "../model/players/state.ts";
import { newId } from "../model/stamp.ts";
import type { RoomsPart } from "../model/state.ts";
import { networkKey, networksAround, networkText } from "./network.ts";
import { banView } from "./view.ts";

/** Most bans that are kept: each is looked up by its subject, so it is memory alone that bounds them. */
const BANS_MAX = 100_000;

const HOUR_MS = 3_600_000;

type Doing<K extends BanCommand["do"]> = Extract<BanCommand, { do: K }>;

export const decideBan = decideBy<BanCommand, RoomsPart>({
  "ban.set": set,
  "ban.lift": lift,
  "ban.end": ({ state }, { ban }) => (state.bans.byId.has(ban) ? accept([{ kind: "ban.ended", ban }]) : nothingToDo),
});

function set({ state, at, random }: RoomsContext, command: Doing<"ban.set">): Decision<BanView> {
  if (state.bans.byId.size >= BANS_MAX) {
    return refuse("board-full", `There are ${BANS_MAX} bans, which is the maximum; lift some, or give them an end.`);
  }
  const subject = subjectOf(command.subject);
  if (subject === undefined) {
    return refuse("request-invalid", "The network is none: expected an address, or a network such as 192.0.2.0/24.");
  }
  const { reason = null, forMs, by } = command;
  const untilMs = forMs === undefined ? null : at + forMs;
  const ban: Ban = { ...subject, id: newId("x", random), reason, by, atMs: at, untilMs };
  return accept([{ kind: "ban.set", ban }], { reply: () => banView(ban) });
}

function subjectOf(subject: Doing<"ban.set">["subject"]): BanSubject | undefined {
  if ("account" in subject) return subject;
  const network = networkKey(subject.network);
  return network === undefined ? undefined : { network, everybody: subject.everybody };
}

function lift({ state }: RoomsContext, { ban: id, by }: Doing<"ban.lift">): Decision<BanView> {
  const ban = state.bans.byId.get(id);
  if (ban === undefined) {
    return refuse("ban-unknown", `There is no ban ${id}, or it has ended; \`yh ban list\` shows those that count.`);
  }
  return accept([{ kind: "ban.lifted", ban: id, by }], { reply: () => banView(ban) });
}

/** Why somebody is not let in, or undefined: by its account, or by where it comes from. */
export function banRefusal(
  { state: { bans }, at }: RoomsContext,
  identity: Identity | undefined,
  from: string | undefined,
): Refusal | undefined {
  const ban = bans.byId.get(banOfAccount(bans, identity) ?? banOfNetwork(bans, identity, from) ?? "");
  if (ban === undefined) return undefined;
  return refuse("banned", banDetail(ban, at), {
    current: { ban: ban.id, ...(ban.untilMs !== null && { untilMs: ban.untilMs }) },
  });
}

const banOfAccount = ({ byAccount }: RoomsPart["bans"], identity: Identity | undefined) =>
  identity === undefined ? undefined : byAccount.get(identity.account);

function banOfNetwork(
  { byId, byNetwork }: RoomsPart["bans"],
  identity: Identity | undefined,
  from: string | undefined,
): string | undefined {
  if (byNetwork.size === 0 || from === undefined) return undefined;
  const isGuest = identity === undefined || isDevice(identity.account);
  return networksAround(from)
    .flatMap((key) => byNetwork.get(key) ?? [])
    .find((id) => {
      const ban = byId.get(id);
      return ban !== undefined && "network" in ban && (isGuest || ban.everybody);
    });
}

/** What it says to whom it concerns. A network is not named: whoever it concerns need not know how wide it is. */
export function banDetail(ban: Ban, at: number): string {
  const whom = "account" in ban ? "This account" : "Your network";
  const hours = ban.untilMs === null ? undefined : Math.max(1, Math.ceil((ban.untilMs - at) / HOUR_MS));
  const long = hours === undefined ? "" : ` for another ${hours} h`;
  return `${whom} is banned${long}${ban.reason === null ? "" : `: ${ban.reason}`}.`;
}

/** Whom a ban concerns, as people write it. */
export const subjectText = (ban: BanSubject): string =>
  "account" in ban ? ban.account : `${networkText(ban.network)}${ban.everybody ? ", accounts too" : ", guests"}`;
