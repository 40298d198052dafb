import type { EchoUrl, PlayerId, RegionView, Revised } from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { revisionReply, roomOf } from "../../model/find-room.ts";
import type { HarborRules } from "../../model/rules.ts";

/** The regions as clients have to know them. */
export const regionViews = ({ regions }: Pick<HarborRules, "regions">): RegionView[] =>
  [...regions].map(([id, { title, echo }]) => ({ id, ...(title !== undefined && { title }), echo: [...echo] }));

/** Why a room cannot play in a region that somebody names. */
export function unknownRegion({ regions }: HarborRules, region: string | undefined): Refusal | undefined {
  if (region === undefined || regions.has(region)) return undefined;
  const accepted = [...regions.keys()];
  const detail = accepted.length === 0 ? "none is listed" : `the regions are ${accepted.join(", ")}`;
  return refuse("region-unknown", `There is no region ${region}; ${detail}.`, { accepted });
}

/** Where the host's own world answers echoes, for those who look for a room. */
export function tellEcho(
  { state }: RoomsContext,
  { player, echo }: { readonly player: PlayerId; readonly echo: EchoUrl | null },
): Decision<Revised> {
  const found = roomOf(state, player, { hostOnly: "tell where its world answers echoes" });
  if ("refused" in found) return found;
  const { room } = found;
  if (!room.policy.hostEcho) {
    const detail = `Hosts of rooms of kind ${room.kind} tell nobody where they are; the configuration says hostEcho.`;
    return refuse("echo-off", detail);
  }
  const before = room.echo?.player === player ? room.echo.url : null;
  return accept(before === echo ? [] : [{ kind: "room.echo-told", room: room.id, player, echo }], {
    reply: revisionReply(room.id),
  });
}
