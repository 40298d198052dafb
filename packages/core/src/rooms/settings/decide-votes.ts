import type { LevelView, PlayerArgs, PlayerId, Revised } from "@yellow-harbor/protocol";
import { accept, type Decision, type RoomsContext, refuse } from "../../model/decision.ts";
import { gatheringOrResults, revisionReply } from "../../model/find-room.ts";
import type { Room } from "../../model/rooms/state.ts";
import type { HarborRules } from "../../model/rules.ts";
import { levelView } from "./levels.ts";

/** A member is for a level; the one with most votes is picked, of several the one that the room kind names first. */
export function vote(
  { state, rules }: RoomsContext,
  player: PlayerId,
  { level }: PlayerArgs<"room.vote">,
): Decision<Revised> {
  const found = gatheringOrResults(state, player, "levels are voted for");
  if ("refused" in found) return found;
  const { room, member } = found;
  if (room.policy.levelBy !== "vote") {
    const who = room.policy.levelBy === "host" ? "the host picks the level" : "levels follow one after the other";
    return refuse("level-not-yours", `In rooms of kind ${room.kind} ${who}; there is no vote.`);
  }
  const allowed = rules.roomKinds.get(room.kind)?.levels ?? [];
  if (!allowed.includes(level)) {
    const detail = `Rooms of kind ${room.kind} do not have level ${level}; they have ${allowed.join(", ")}.`;
    return refuse("level-not-allowed", detail, { accepted: [...allowed] });
  }
  const reply = revisionReply(room.id);
  if (member.vote === level) return accept([], { reply });
  const leads = leader(rules, room, { player, level });
  const unready = leads && room.policy.clearsReady.includes("level") && { unready: true as const };
  return accept([{ kind: "room.voted", room: room.id, player, level, ...(leads && { leads }), ...unready }], { reply });
}

/** The level that leads with a vote changed or gone, when that is another than the room's; undefined when it is the same. */
export function leader(
  rules: HarborRules,
  room: Room,
  change: { readonly player: PlayerId; readonly level: string | null },
): LevelView | undefined {
  const votes = new Map<string, number>();
  for (const { id, vote } of room.members.values()) {
    const level = id === change.player ? change.level : vote;
    if (level !== null) votes.set(level, (votes.get(level) ?? 0) + 1);
  }
  const order = rules.roomKinds.get(room.kind)?.levels ?? [];
  const max = Math.max(0, ...votes.values());
  const first = order.find((id) => max > 0 && votes.get(id) === max);
  return first === undefined || first === room.level?.id ? undefined : levelView(rules, first);
}
