import { accept, type Decision, type QueuesContext } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { QueueCommand } from "../model/queues/commands.ts";
import type { Done } from "../model/replies.ts";
import type { QueuesPart } from "../model/state.ts";
import { backfill, memberLeft, operatorBackfill, playersJoined, stopBackfill } from "./decide-backfill.ts";
import { confirm, confirmLate } from "./decide-confirm.ts";
import { forfeit, pass, putBack, settle } from "./decide-matches.ts";
import { matcherLost, propose } from "./decide-proposals.ts";
import { agree, cancel, checkPresence, dropPlayer, expire, join, leaveParty } from "./decide-tickets.ts";
import { unknownQueue } from "./parts.ts";

export const decideQueue = decideBy<QueueCommand, QueuesPart>({
  "queue.join": (context, { player, args }) => join(context, player, args),
  "queue.agree": (context, { player, args }) => agree(context, player, args),
  "queue.cancel": (context, { player }) => cancel(context, player),
  "queue.confirm": (context, { player, args }) => confirm(context, player, args),
  "queue.confirm-late": (context, { match }) => confirmLate(context, match),
  "queue.pass": (context, { queue }) => pass(context, queue),
  "queue.propose": (context, command) => propose(context, command),
  "queue.matcher-lost": (context) => matcherLost(context),
  "queue.expire": (context, { ticket }) => expire(context, ticket),
  "queue.check-presence": (context, { player }) => checkPresence(context, player),
  "queue.drop-player": (context, { player, cause }) => dropPlayer(context, player, cause),
  "queue.leave-party": (context, command) => leaveParty(context, command),
  "queue.room-playing": (context, { room }) => settle(context, room),
  "queue.forfeit": (context, { room, player }) => forfeit(context, room, player),
  "queue.put-back": (context, { match, why }) => putBack(context, match, why),
  "queue.backfill": (context, { player, args }) => backfill(context, player, args),
  "queue.operator-backfill": (context, { room, wanted }) => operatorBackfill(context, room, wanted),
  "queue.member-left": (context, command) => memberLeft(context, command),
  "queue.stop-backfill": (context, { room, why }) => stopBackfill(context, room, why),
  "queue.players-joined": (context, { match }) => playersJoined(context, match),
  "queue.set-mode": setMode,
});

function setMode(
  context: QueuesContext,
  { queue, mode }: Extract<QueueCommand, { do: "queue.set-mode" }>,
): Decision<Done> {
  if (!context.rules.queues.has(queue)) return unknownQueue(context, queue);
  const reply = (): Done => ({});
  if ((context.state.queues.byName.get(queue)?.mode ?? "open") === mode) return accept([], { reply });
  return accept([{ kind: "queue.mode-set", queue, mode }], { reply });
}
