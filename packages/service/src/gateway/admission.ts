import { type PlayerAsk, type Problem, problem } from "@yellow-harbor/protocol";

/** Commands that may be under way in a harbor: more than that wait for seconds, and what waits takes memory. */
const COMMANDS_MAX = 5_000;
/** From so many on nobody new is taken on, and nothing that can wait as well. */
const CROWDED = COMMANDS_MAX / 2;

/** What brings more work, or only looks: refused first. */
const CAN_WAIT: ReadonlySet<PlayerAsk | "hello"> = new Set([
  ...([
    "hello",
    "level.list",
    "region.list",
    "lobby.rooms",
    "lobby.follow",
    "friends.follow",
    "lobby.chat",
    "queue.list",
    "queue.join",
  ] as const),
  ...(["room.open", "room.join-or-open", "room.quick-join", "room.relay", "queue.backfill"] as const),
]);

/** What ends something, or what others wait for: never refused, as what one connection may have under way is bounded too. */
const MUST_PASS: ReadonlySet<PlayerAsk | "resume"> = new Set([
  ...([
    "room.leave",
    "player.leave",
    "queue.cancel",
    "queue.confirm",
    "room.ready",
    "lobby.unfollow",
    "friends.unfollow",
  ] as const),
  ...(["travel.arrive", "travel.abort", "travel.pass", "travel.board", "travel.trouble", "room.set-result"] as const),
]);

/** Why something is not taken now, when so many commands are under way. Undefined when it is. */
export function whyBusy(ask: PlayerAsk | "hello" | "resume", underWay: number): Problem | undefined {
  const most = CAN_WAIT.has(ask as "hello") ? CROWDED : COMMANDS_MAX;
  if (underWay < most || MUST_PASS.has(ask as "resume")) return undefined;
  const detail = `${underWay} requests are under way here, and ${ask} is taken below ${most}; try again in a second.`;
  return problem("harbor-busy", detail);
}
