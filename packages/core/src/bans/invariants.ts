import type { RoomsPart } from "../model/state.ts";

/** Every ban is found by whom it concerns, and nothing else is. */
export function banViolations({ bans: { byId, byAccount, byNetwork } }: RoomsPart): string[] {
  const lost = [...byId.values()].filter(
    (ban) => ("account" in ban ? byAccount.get(ban.account) : byNetwork.get(ban.network)) !== ban.id,
  );
  const left = [...byAccount.values(), ...byNetwork.values()].filter((id) => !byId.has(id));
  return [
    ...lost.map(({ id }) => `ban ${id} is not found by whom it concerns`),
    ...left.map((id) => `ban ${id} is found and is not there`),
  ];
}
