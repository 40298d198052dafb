import { accept, type Decision, type QueuesMoment } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { QueueCommand } from "../model/queues/commands.ts";
import type { Done } from "../model/replies.ts";
import type { QueuesPart } from "../model/state.ts";
import { confirm, confirmLate } from "./decide-confirm.ts";
import { backfill, mindLeaver, operatorBackfill, settleFilling, stopFilling } from "./decide-filling.ts";
import { forgo, pass, putBack, settle } from "./decide-matches.ts";
import { agree, cancel, checkPresence, dropPlayer, enter, expire } from "./decide-tickets.ts";
import { unknownQueue } from "./parts.ts";

export const decideQueue = decideBy<QueueCommand, QueuesPart>({
  "queue.enter": (moment, { player, args }) => enter(moment, player, args),
  "queue.agree": (moment, { player, args }) => agree(moment, player, args),
  "queue.cancel": (moment, { player }) => cancel(moment, player),
  "queue.confirm": (moment, { player, args }) => confirm(moment, player, args),
  "queue.confirm-late": (moment, { match }) => confirmLate(moment, match),
  "queue.pass": (moment, { queue }) => pass(moment, queue),
  "queue.expire": (moment, { ticket }) => expire(moment, ticket),
  "queue.check-presence": (moment, { player }) => checkPresence(moment, player),
  "queue.drop-player": (moment, { player, cause }) => dropPlayer(moment, player, cause),
  "queue.settle": (moment, { room }) => settle(moment, room),
  "queue.forgo": (moment, { room, player }) => forgo(moment, room, player),
  "queue.put-back": (moment, { match, why }) => putBack(moment, match, why),
  "queue.backfill": (moment, { player, args }) => backfill(moment, player, args),
  "queue.operator-backfill": (moment, { room, wanted }) => operatorBackfill(moment, room, wanted),
  "queue.mind-leaver": (moment, { room, name }) => mindLeaver(moment, room, name),
  "queue.stop-filling": (moment, { room, why }) => stopFilling(moment, room, why),
  "queue.settle-filling": (moment, { match }) => settleFilling(moment, match),
  "queue.set-mode": setMode,
});

function setMode(
  moment: QueuesMoment,
  { queue, mode }: Extract<QueueCommand, { do: "queue.set-mode" }>,
): Decision<Done> {
  if (!moment.rules.queues.has(queue)) return unknownQueue(moment, queue);
  const reply = (): Done => ({});
  if ((moment.state.queues.byName.get(queue)?.mode ?? "open") === mode) return accept([], { reply });
  return accept([{ kind: "queue.mode-set", queue, mode }], { reply });
}
