import { accept, assertNever, type Decision, type QueuesMoment } from "../model/decision.ts";
import type { QueueCommand } from "../model/queues/commands.ts";
import { confirm, confirmLate } from "./decide-confirm.ts";
import { backfill, mindLeaver, operatorBackfill, settleFilling, stopFilling } from "./decide-filling.ts";
import { forgo, pass, putBack, settle } from "./decide-matches.ts";
import { agree, cancel, checkPresence, dropPlayer, enter, expire } from "./decide-tickets.ts";
import { unknownQueue } from "./parts.ts";

export function decideQueue(moment: QueuesMoment, command: QueueCommand): Decision {
  switch (command.do) {
    case "queue.enter":
      return enter(moment, command.player, command.args);
    case "queue.agree":
      return agree(moment, command.player, command.args);
    case "queue.cancel":
      return cancel(moment, command.player);
    case "queue.confirm":
      return confirm(moment, command.player, command.args);
    case "queue.confirm-late":
      return confirmLate(moment, command.match);
    case "queue.pass":
      return pass(moment, command.queue);
    case "queue.expire":
      return expire(moment, command.ticket);
    case "queue.check-presence":
      return checkPresence(moment, command.player);
    case "queue.drop-player":
      return dropPlayer(moment, command.player, command.cause);
    case "queue.settle":
      return settle(moment, command.room);
    case "queue.forgo":
      return forgo(moment, command.room, command.player);
    case "queue.put-back":
      return putBack(moment, command.match, command.why);
    case "queue.backfill":
      return backfill(moment, command.player, command.args);
    case "queue.operator-backfill":
      return operatorBackfill(moment, command.room, command.wanted);
    case "queue.mind-leaver":
      return mindLeaver(moment, command.room, command.name);
    case "queue.stop-filling":
      return stopFilling(moment, command.room, command.why);
    case "queue.settle-filling":
      return settleFilling(moment, command.match);
    case "queue.set-mode":
      return setMode(moment, command);
    default:
      return assertNever(command);
  }
}

function setMode(moment: QueuesMoment, { queue, mode }: Extract<QueueCommand, { do: "queue.set-mode" }>): Decision {
  if (!moment.rules.queues.has(queue)) return unknownQueue(moment, queue);
  const reply = () => ({});
  if ((moment.state.queues.byName.get(queue)?.mode ?? "open") === mode) return accept([], { reply });
  return accept([{ kind: "queue.mode-set", queue, mode }], { reply });
}
