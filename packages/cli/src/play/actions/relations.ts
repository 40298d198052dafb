import type { PlayerClient } from "@yellow-harbor/client";
import { type BlockedView, type FriendView, ReportReason } from "@yellow-harbor/protocol";
import { type Actions, quiet, wrong } from "./action.ts";
import { invited } from "./inviting.ts";
import { who } from "./who.ts";

const BLOCK = "block NAME|PLAYER|ISSUER:ACCOUNT";
const MUTE = "mute-player NAME|PLAYER|ISSUER:ACCOUNT";
const MESSAGE = "message NAME|PLAYER TEXT";
const REPORT = `report NAME|PLAYER ${ReportReason.options.join("|")} [TEXT]`;
const UNBLOCK = "unblock NAME|PLAYER|ISSUER:ACCOUNT";
const JOIN = "join-friend NAME|ISSUER:ACCOUNT";

/** Friends, and those of whom one wants to hear nothing. */
export const relationActions = {
  friends: {
    usage: "friends [hide|show]",
    about: "list your friends who are here, and show each change; hide where you are from them, or show it",
    run: async (player, [how]) => {
      if (how === "hide" || how === "show") return quiet(player.relations.hide(how === "hide"));
      await player.relations.follow();
      const { friends } = player.relations;
      const none = "None of your friends is here; who they are the game's own back end says.";
      return { result: friends, text: friends.length === 0 ? [none] : friends.map(friendText) };
    },
  },
  "join-friend": {
    usage: JOIN,
    about: "follow a friend into the room it is in, leaving the one you are in",
    run: async (player, words) => {
      const typed = words.join(" ");
      if (typed === "") throw wrong(JOIN);
      const joined = await player.joinRoom({ friend: accountOf(player, typed), move: true });
      return { result: joined, text: who({ room: joined.room, lobby: undefined }) };
    },
  },
  block: {
    usage: BLOCK,
    about: "hear no chat, messages or invitations of somebody any more; nobody is told",
    run: async (player, words) => {
      const { blocked } = await player.relations.block(invited(player, words.join(" "), BLOCK));
      return { result: blocked, text: blockedLines(blocked) };
    },
  },
  "mute-player": {
    usage: MUTE,
    about: "hear nothing that somebody says, and no more than that; unblock ends it",
    run: async (player, words) => {
      const whom = invited(player, words.join(" "), MUTE);
      const { blocked } = await player.relations.block({ ...whom, chatOnly: true });
      return { result: blocked, text: blockedLines(blocked) };
    },
  },
  message: {
    usage: MESSAGE,
    about: "say something to one player alone, where the lobby lets you; a name of several words ends with a colon",
    run: async (player, words) => {
      const typed = words.join(" ");
      const [, name, text] = /^([^:]+): (.+)$/.exec(typed) ?? /^(\S+) (.+)$/.exec(typed) ?? [];
      if (name === undefined || text === undefined) throw wrong(MESSAGE);
      const whom = invited(player, name, MESSAGE);
      if (!("player" in whom)) throw wrong(MESSAGE);
      const result = await player.relations.message(whom.player, text);
      return { result, text: result.delivered ? [] : [`${name} is not connected now, and has not heard it.`] };
    },
  },
  report: {
    usage: REPORT,
    about: "tell those who run the game of somebody's conduct, with what it said lately",
    run: async (player, [name, reason, ...words]) => {
      const known = ReportReason.safeParse(reason);
      if (name === undefined || !known.success) throw wrong(REPORT);
      const whom = invited(player, name, REPORT);
      if (!("player" in whom)) throw wrong(REPORT);
      const text = words.join(" ");
      const args = { ...whom, reason: known.data, ...(text && { text }) };
      return { result: await player.relations.report(args), text: [`You have reported ${name}.`] };
    },
  },
  unblock: {
    usage: UNBLOCK,
    about: "hear of somebody again",
    run: async (player, words) => {
      const typed = words.join(" ");
      const { blocked: before } = await player.relations.listBlocked();
      const known = before.find(({ name }) => name?.toLocaleLowerCase() === typed.toLocaleLowerCase());
      const whom = known?.player === undefined ? invited(player, typed, UNBLOCK) : { player: known.player };
      const { blocked } = await player.relations.unblock(whom);
      return { result: blocked, text: blockedLines(blocked) };
    },
  },
  blocked: {
    usage: "blocked",
    about: "list whom you have blocked",
    run: async (player) => {
      const { blocked } = await player.relations.listBlocked();
      return { result: blocked, text: blockedLines(blocked) };
    },
  },
} satisfies Actions;

export function friendText({ account, name, presence, lobby, room }: FriendView): string {
  const away = presence === "away" ? ", away" : "";
  if (room === undefined) return `${name} (${account})${away}: in the lobby ${lobby}`;
  const where = room.name === undefined ? "in a room of its own" : `in ${room.name}`;
  const how = room.watches ? ", looking on" : "";
  return `${name} (${account})${away}: ${where}, ${room.phase}${how}${room.isOpen ? "; join-friend follows" : ""}`;
}

function accountOf({ relations }: PlayerClient, typed: string): string {
  const named = relations.friends.find(({ name }) => name.toLocaleLowerCase() === typed.toLocaleLowerCase());
  if (named) return named.account;
  if (typed.includes(":")) return typed;
  throw wrong(`${JOIN}, by name those whom friends has listed`);
}

const blockedText = ({ name, account, player, chatOnly }: BlockedView): string =>
  `${name ?? account ?? player}${chatOnly ? " (muted)" : ""}`;

const blockedLines = (blocked: readonly BlockedView[]): string[] =>
  blocked.length === 0 ? ["You have blocked nobody."] : [`You have blocked ${blocked.map(blockedText).join(", ")}.`];
