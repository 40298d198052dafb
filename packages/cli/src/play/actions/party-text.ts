import type { OwnUpdate, PartyInvitationView, PartyMemberView, PartyView } from "@yellow-harbor/protocol";

/** The party as its member reads it: the code to give away, then who is in it and where. */
export function partyLines({ code, members, maxSize, leader, invited = [] }: PartyView): string[] {
  const waiting = invited.length === 0 ? "" : `, ${invited.length} invited`;
  return [
    `Your party has the code ${code.slice(0, 4)}-${code.slice(4)}: ${members.length} of ${maxSize}${waiting}.`,
    ...members.map(({ id, name, presence, follows, room }) => {
      const where = presence === "away" ? "away" : room ? `in room ${room.code}` : "in the lobby";
      const how = id === leader ? "leads" : follows ? "goes along" : "stays behind";
      return `  ${name}  ${where}; ${how}`;
    }),
  ];
}

export const partyInvitationText = ({ by, members, untilMs }: PartyInvitationView): string => {
  const seconds = Math.max(0, Math.round((untilMs - Date.now()) / 1_000));
  return `${by.name} invites you into a party of ${members}: join-party ${by.name}, within ${seconds} s.`;
};

interface Told {
  readonly before: PartyView | undefined;
  readonly party: PartyView | undefined;
  readonly change: PartyUpdate["change"] | undefined;
  readonly player: string | undefined;
  readonly left: PartyUpdate["left"] | undefined;
}
type PartyUpdate = Extract<OwnUpdate, { kind: "party-changed" }>;

/** What has changed in a party, in a sentence; undefined where there is nothing to say. */
export function partyUpdateText({ before, party, change, player, left }: Told): string | undefined {
  const memberOf = (view: PartyView | undefined) => view?.members.find(({ id }) => id === player);
  const [was, is] = [memberOf(before), memberOf(party)];
  const name = (is ?? was)?.name ?? "Somebody";
  switch (change) {
    case "joined":
      return `${name} joins your party.`;
    case "left": {
      const how = {
        left: "has left your party",
        kicked: "was removed from your party",
        gone: "is gone from your party",
      };
      const next = before && party && before.leader !== party.leader ? ` ${leaderName(party)} leads it now.` : "";
      return `${name} ${how[left ?? "left"]}.${next}`;
    }
    case "leader":
      return `${name} leads your party now.`;
    case "member":
      return was && is ? memberText(was, is) : undefined;
    default:
      return undefined;
  }
}

const leaderName = ({ members, leader }: PartyView): string => members.find(({ id }) => id === leader)?.name ?? leader;

function memberText(was: PartyMemberView, is: PartyMemberView): string | undefined {
  const { name, presence, follows, room } = is;
  if (was.presence !== presence) return `${name} of your party is ${presence === "away" ? "away" : "here again"}.`;
  if (was.follows !== follows) return `${name} of your party ${follows ? "goes along" : "stays behind"} from now on.`;
  if (was.room?.id !== room?.id) return `${name} of your party is ${room ? `in room ${room.code}` : "in the lobby"}.`;
  return undefined;
}
