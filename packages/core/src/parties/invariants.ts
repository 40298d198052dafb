import type { Party } from "../model/parties/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { whereabouts } from "./members.ts";

/** What must never be in the parties, each in a sentence. */
export function partyViolations(state: RoomsPart): string[] {
  const { byId, byCode, byPlayer, invitedTo } = state.parties;
  const strays = [...byPlayer]
    .filter(([player, party]) => !byId.get(party)?.members.has(player))
    .map(([player, party]) => `${player} is said to be in party ${party}, which does not have it`);
  const codes = [...byCode].filter(([code, id]) => byId.get(id)?.code !== code);
  const invited = [...invitedTo].flatMap(([key, parties]) =>
    [...parties].filter((id) => !byId.get(id)?.invitations.has(key)).map((id) => `party ${id} does not invite ${key}`),
  );
  return [
    ...strays,
    ...codes.map(([code, id]) => `the code ${code} leads to party ${id}, which has another`),
    ...invited,
    ...[...byId.values()].flatMap((party) => violationsOf(state, party)),
  ];
}

function violationsOf(state: RoomsPart, party: Party): string[] {
  const { id, members, leader, policy, leaderAwaySinceMs, invitations } = party;
  const { byPlayer, byCode, invitedTo } = state.parties;
  const faults: string[] = [];
  const check = (holds: boolean, what: string) => {
    if (!holds) faults.push(`party ${id}: ${what}`);
  };
  check(members.size > 0, "nobody is in it");
  check(members.size <= policy.maxSize, `it has ${members.size} members, where ${policy.maxSize} may be`);
  check(members.has(leader), `${leader} leads it and is not in it`);
  check(byCode.get(party.code) === id, "its code does not lead to it");
  check((members.get(leader)?.presence === "here") === (leaderAwaySinceMs === null), "its leader is here and away");
  for (const [key] of invitations) check(invitedTo.get(key)?.has(id) === true, `${key} is not known as invited`);
  for (const { id: player, presence, room } of members.values()) {
    check(byPlayer.get(player) === id, `${player} is said to be in another party, or in none`);
    check(state.players.byId.has(player), `${player} is unknown`);
    const now = whereabouts(state, player);
    check(now.presence === presence, `${player} is told as ${presence} and is ${now.presence}`);
    check(now.room?.id === room?.id, `${player} is told as in ${room?.id} and is in ${now.room?.id}`);
  }
  return faults;
}
