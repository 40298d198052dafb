import type { RoomsPart } from "../model/state.ts";

/** Every account leads to its player, and to no other. */
export function playerViolations({ players: { byId, byAccount, uniqueNames, here } }: RoomsPart): string[] {
  const all = [...byId.values()];
  const faults = all.flatMap(({ id, identity }) =>
    identity !== null && byAccount.get(identity.account) !== id ? [`${id} cannot be found by its account`] : [],
  );
  for (const [account, id] of byAccount) {
    if (byId.get(id)?.identity?.account !== account) faults.push(`account ${account} leads to ${id}, who has another`);
  }
  for (const [name, id] of uniqueNames) {
    if (byId.get(id)?.uniqueName !== name) faults.push(`the name ${name} is kept for ${id}, who does not have it`);
  }
  const present = all.filter(({ presence }) => presence === "here").length;
  return present === here ? faults : [...faults, `${here} players are counted as here, and ${present} are`];
}
