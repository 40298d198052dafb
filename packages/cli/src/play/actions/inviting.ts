import { type PlayerClient, ProblemError } from "@yellow-harbor/client";
import type { InvitationView } from "@yellow-harbor/protocol";
import { type Actions, quiet, wrong } from "./action.ts";
import { partyInvitationText } from "./party-text.ts";

const met = new WeakMap<PlayerClient, Map<string, string>>();
const MET_MAX = 1_000;

/** Remembers the names of those who were in the lobby or a room with a player: in a room one does not see the lobby. */
export function rememberMet(player: PlayerClient): void {
  const names = new Map<string, string>();
  met.set(player, names);
  const note = ({ lobby, room }: PlayerClient["state"]) => {
    for (const { id, name } of [...Object.values(lobby?.players ?? {}), ...Object.values(room?.members ?? {})]) {
      if (names.size < MET_MAX) names.set(id, name);
    }
  };
  note(player.state);
  player.on("change", ({ state }) => note(state));
}

/** Places that are kept for those who are invited. */
export const invitingActions = {
  invite: {
    usage: "invite NAME|PLAYER|ISSUER:ACCOUNT",
    about: "invite somebody into the room: a place is kept; by name only those whom you have met",
    run: async (player, words) => {
      const args = invited(player, words.join(" "), "invite NAME|PLAYER|ISSUER:ACCOUNT");
      const result = await player.inviting.invite(args);
      return { result, text: [] };
    },
  },
  uninvite: {
    usage: "uninvite NAME|PLAYER|ISSUER:ACCOUNT",
    about: "take an invitation back",
    run: (player, words) =>
      quiet(player.inviting.takeBack(invited(player, words.join(" "), "uninvite NAME|PLAYER|ISSUER:ACCOUNT"))),
  },
  invitations: {
    usage: "invitations",
    about: "list the invitations that you have",
    run: async ({ invitations, parties }) => {
      const { invitations: partyInvitations } = parties;
      const text = [...invitations.map(invitationText), ...partyInvitations.map(partyInvitationText)];
      return { result: { invitations, partyInvitations }, text: text.length === 0 ? ["Nobody invites you."] : text };
    },
  },
  refuse: {
    usage: "refuse CODE|NAME",
    about: "decline an invitation: into a room by its code, into a party by the name of who invites",
    run: async (player, [code]) => {
      const party = player.parties.invitations.find(
        (one) => one.by.name.toLocaleLowerCase() === code?.toLocaleLowerCase(),
      );
      if (party) return quiet(player.parties.decline(party.party));
      const found = player.invitations.find((one) => one.code === code?.toUpperCase());
      if (code === undefined) throw wrong("refuse CODE|NAME");
      if (found === undefined) {
        throw ProblemError.of("reservation-unknown", `No invitation has the code ${code}; invitations lists them.`);
      }
      return { result: await player.inviting.decline(found.room), text: [] };
    },
  },
  mute: {
    usage: "mute [off]",
    about: "hear of no invitations, or hear of them again",
    run: async (player, [off]) => {
      const { invitations } = await player.inviting.mute(off !== "off");
      const said = off === "off" ? "You hear of invitations again." : "You hear of no invitations now.";
      return { result: { invitations }, text: [said, ...invitations.map(invitationText)] };
    },
  },
} satisfies Actions;

export const invitationText = ({ code, name, by, untilMs }: InvitationView): string => {
  const seconds = Math.max(0, Math.round((untilMs - Date.now()) / 1_000));
  return `${by?.name ?? "The game"} invites you into ${name}: join ${code} within ${seconds} s.`;
};

export function invited(player: PlayerClient, whom: string, usage: string): { player: string } | { account: string } {
  if (whom === "") throw wrong(usage);
  if (whom.includes(":")) return { account: whom };
  if (/^p_[0-9a-z]+$/.test(whom)) return { player: whom };
  const seen = [...(met.get(player) ?? [])];
  const [first, second] = seen.filter(([, name]) => name.toLocaleLowerCase() === whom.toLocaleLowerCase());
  if (first === undefined) throw ProblemError.of("player-unknown", `You have met nobody called ${whom}; give the id.`);
  if (second !== undefined) throw ProblemError.of("usage", `Several are called ${whom}; give the id.`);
  return { player: first[0] };
}
