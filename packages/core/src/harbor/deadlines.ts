import type { Deadline, DeadlineKind } from "../deadlines/index.ts";
import type { Command } from "./command.ts";

/** What is done when a deadline falls due. */
const dueCommand: { readonly [K in DeadlineKind]: (subject: string) => Command } = {
  "player-grace": (player) => ({ do: "player.give-up", player }),
  "lobby-tally": (lobby) => ({ do: "lobby.tally", lobby }),
  "room-results": (room) => ({ do: "room.results-seen", room }),
  "room-play": (room) => ({ do: "room.overdue", room }),
  "room-host": (room) => ({ do: "room.check-host", room }),
  "room-baton": (room) => ({ do: "room.check-baton", room }),
  "room-empty": (room) => ({ do: "room.close", room }),
  "room-countdown": (room) => ({ do: "room.launch", room }),
  "travel-step": (run) => ({ do: "travel.expire", run }),
  "queue-pass": (queue) => ({ do: "queue.pass", queue }),
  "ticket-end": (ticket) => ({ do: "queue.expire", ticket }),
  "match-confirm": (match) => ({ do: "queue.confirm-late", match }),
  "filling-end": (room) => ({ do: "queue.stop-filling", room, why: "nobody who fits was found in time" }),
  "plan-pool": (pool) => ({ do: "plan.consider", pool }),
  "instance-boot": (instance) => ({ do: "instance.boot-late", instance }),
  "instance-stop": (instance) => ({ do: "instance.stop-late", instance }),
  "instance-kill": (instance) => ({ do: "instance.kill-late", instance }),
  "instance-drain": (instance) => ({ do: "instance.drain-late", instance }),
  "instance-berths": (instance) => ({ do: "instance.berths-late", instance }),
  "instance-forget": (instance) => ({ do: "instance.forget", instance }),
};

export const commandFor = ({ kind, subject }: Deadline): Command => dueCommand[kind](subject);
