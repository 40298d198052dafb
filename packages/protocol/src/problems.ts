import { z } from "zod";

/** What is known about a problem before it happens. One row for each code, in one table. */
export interface ProblemKind {
  /** Short and always the same for a code (RFC 9457, section 3.1.3). */
  readonly title: string;
  /** HTTP status when an HTTP request meets it. */
  readonly status: number;
  /** Close code when it ends a WebSocket (RFC 6455, section 7.4.2: 4000 to 4999 are ours), else null. */
  readonly close: number | null;
  /** Exit code of `yh` when it ends a command. */
  readonly exit: number;
  /** Whether trying again helps: never, later with the same request, or after changing the request. */
  readonly retry: "never" | "later" | "changed";
}

const row = (
  title: string,
  status: number,
  exit: number,
  retry: ProblemKind["retry"],
  close: number | null = null,
): ProblemKind => ({ title, status, close, exit, retry });

// Exit codes: 2 wrong input, 3 not found, 4 refused by the state of things, 5 not allowed, 6 not reachable or not able,
// 7 configuration, 1 a fault of ours. A retired code is never used again.
export const problemTable = {
  "frame-not-json": row("The frame is not JSON", 400, 2, "changed", 4400),
  "frame-too-large": row("The frame is too large", 413, 2, "changed", 4413),
  "frame-unknown": row("The frame is of no known kind", 400, 2, "changed", 4400),
  "hello-expected": row("A hello must come first", 400, 2, "changed", 4401),
  "hello-twice": row("The hello was already said", 409, 2, "never", 4401),
  "hello-late": row("No hello came in time", 408, 6, "later", 4408),
  "too-many-frames": row("Too many frames", 429, 4, "later", 4429),
  "too-costly": row("Too much was asked in too short a time", 429, 4, "later"),
  "codes-too-fast": row("Too many room codes were tried", 429, 4, "later"),
  "request-unknown": row("There is no such request", 404, 2, "never", 4400),
  "request-invalid": row("The request does not fit its schema", 422, 2, "changed", 4400),
  "http-malformed": row("The request is not HTTP as it is written", 400, 2, "changed"),
  "path-too-long": row("The path is too long", 414, 2, "changed"),
  "headers-too-large": row("The headers are too large", 431, 2, "changed"),
  "method-unknown": row("The method is not known", 501, 2, "changed"),
  "expectation-unknown": row("The expectation cannot be met", 417, 2, "changed"),
  "request-late": row("The request was not complete in time", 408, 6, "later"),
  "upgrade-invalid": row("The upgrade is none that is taken here", 400, 2, "changed"),
  "body-not-json": row("The body is not JSON", 400, 2, "changed"),
  "wire-unsupported": row("The wire version is not spoken here", 400, 6, "never", 4426),
  "build-unsupported": row("The build is not accepted here", 403, 6, "never", 4427),
  "token-invalid": row("The resume token is not valid", 401, 5, "changed", 4403),
  "account-token-invalid": row("The account token is not valid", 401, 5, "changed", 4430),
  "account-token-expired": row("The account token has expired", 401, 5, "changed", 4431),
  "account-token-early": row("The account token is not valid yet", 401, 5, "later", 4432),
  "account-token-foreign": row("The account token is for another service", 401, 5, "changed", 4433),
  "account-token-used": row("The account token was used already", 401, 5, "changed", 4434),
  "account-claim-missing": row("The account token lacks a claim", 401, 5, "changed", 4435),
  "account-keys-unavailable": row("The keys of the account tokens cannot be had", 503, 6, "later", 4436),
  "accounts-off": row("No account tokens are accepted here", 403, 5, "changed", 4437),
  "account-needed": row("Guests are not let in here", 403, 5, "changed", 4438),
  "account-in-use": row("The account is in use", 409, 4, "later", 4439),
  "account-differs": row("The player belongs to another account", 409, 4, "changed", 4440),
  "name-needed": row("A name is needed", 422, 2, "changed", 4441),
  "name-taken": row("The name is taken", 409, 4, "changed", 4442),
  banned: row("The player is banned from the harbor", 403, 5, "never", 4443),
  "ban-unknown": row("There is no such ban", 404, 3, "changed"),
  "player-unknown": row("There is no such player", 404, 3, "changed", 4404),
  "harbor-busy": row("Too many requests are under way", 503, 6, "later", 4504),
  "codes-used-up": row("No room code is free", 503, 6, "later"),
  "harbor-full": row("The player limit is reached", 503, 6, "later", 4503),
  "taken-over": row("The player connected again elsewhere", 409, 4, "never", 4409),
  "slow-reader": row("The connection does not read what is sent", 408, 6, "later", 4410),
  "connection-silent": row("The connection fell silent", 408, 6, "later", 4411),
  "shutting-down": row("The service is stopping", 503, 6, "later", 4500),
  "lobby-unknown": row("There is no such lobby", 404, 3, "changed", 4404),
  "room-unknown": row("There is no such room", 404, 3, "changed"),
  "room-code-unknown": row("No open room has this code", 404, 3, "changed"),
  "room-kind-unknown": row("There is no such room kind", 404, 3, "changed"),
  "room-full": row("The room is full", 409, 4, "later"),
  "room-started": row("The room has started", 409, 4, "later"),
  "spectators-off": row("The room has no spectators", 409, 4, "never"),
  "spectators-full": row("There are as many spectators as may be", 409, 4, "later"),
  "only-watching": row("The player only looks on", 409, 4, "changed"),
  "room-locked": row("The room is locked", 409, 4, "later"),
  "room-code-needed": row("The room is joined by its code alone", 403, 5, "changed"),
  "room-build-differs": row("The room plays another build", 409, 4, "never"),
  "side-unknown": row("There is no such side", 404, 3, "changed"),
  "side-full": row("The side is full", 409, 4, "later"),
  "place-taken": row("The place is taken", 409, 4, "changed"),
  "turn-not-yours": row("The turn is in another hand", 409, 4, "later"),
  "result-not-yours": row("Somebody else decides the result", 403, 5, "never"),
  "everybody-left": row("Everybody has left", 409, 4, "later"),
  "chat-off": row("The lobby does not let people chat", 403, 5, "never"),
  "chat-too-fast": row("Too many chatMessages", 429, 4, "later"),
  "too-many-connections": row("Too many connections from one address", 429, 4, "later"),
  "banned-from-room": row("The player is banned from this room", 403, 5, "never"),
  kicked: row("The player was kicked", 403, 5, "never", 4412),
  "member-unknown": row("There is no such member", 404, 3, "changed"),
  "echo-off": row("Hosts of such rooms tell nobody their addresses", 403, 5, "never"),
  "board-full": row("The board is full", 409, 4, "changed"),
  "board-stale": row("The entry of the board has changed meanwhile", 409, 4, "changed"),
  "board-not-owner": row("The entry of the board belongs to another member", 403, 5, "never"),
  "board-key-unknown": row("The board has no such entry", 404, 3, "changed"),
  "relay-too-large": row("The relayed message is too large", 413, 2, "changed"),
  "relay-too-fast": row("Too many relayed messages", 429, 4, "later"),
  "room-code-taken": row("The room code cannot be had", 409, 4, "changed"),
  "request-key-reused": row("The key was given with another request", 422, 2, "changed"),
  "revision-stale": row("The room has changed meanwhile", 412, 4, "changed"),
  "reservation-unknown": row("No such place is kept", 404, 3, "changed"),
  "setting-unknown": row("There is no such setting", 422, 2, "changed"),
  "setting-invalid": row("The setting cannot have this value", 422, 2, "changed"),
  "setting-not-yours": row("The setting is for operators to set", 403, 5, "never"),
  "variant-unknown": row("There is no such variant", 404, 3, "changed"),
  "settings-stale": row("The settings have changed meanwhile", 409, 4, "changed"),
  "already-in-room": row("The player is in a room already", 409, 4, "changed"),
  "not-in-room": row("The player is in no room", 409, 4, "changed"),
  "not-host": row("Only the host may do this", 403, 5, "never"),
  "wrong-phase": row("The room is in another phase", 409, 4, "later"),
  "capacity-out-of-range": row("The capacity is out of range", 422, 2, "changed"),
  "level-unknown": row("There is no such level", 404, 3, "changed"),
  "level-not-allowed": row("The room kind does not have this level", 409, 4, "changed"),
  "start-not-possible": row("The room cannot start yet", 409, 4, "later"),
  "instance-unknown": row("There is no such instance", 404, 3, "never"),
  "instance-key-invalid": row("The instance key is not valid", 401, 5, "never"),
  "instance-key-in-use": row("The instance key is that of another process", 409, 5, "never"),
  "instance-ended": row("The instance has ended", 410, 4, "never"),
  "instance-not-open": row("The instance is in another state", 409, 4, "changed"),
  "instruction-unknown": row("No such instruction was given", 409, 4, "changed"),
  "pass-invalid": row("The boarding pass is not valid", 403, 5, "never"),
  "pass-expired": row("The boarding pass has expired", 403, 5, "changed"),
  "pass-foreign": row("The boarding pass is for another instance", 403, 5, "never"),
  "pass-used": row("The boarding pass was used already", 409, 5, "never"),
  "pass-replaced": row("The player has a newer boarding pass", 409, 5, "never"),
  "berth-unknown": row("No berth is kept for this player", 404, 3, "never"),
  "match-unknown": row("The instance has no such match", 409, 4, "never"),
  "result-known": row("The result of this run is known already", 409, 4, "never"),
  "invites-not-yours": row("One may not invite into this room", 403, 5, "never"),
  "too-many-invitations": row("There are too many invitations", 409, 4, "later"),
  "player-away": row("The player is not connected at the moment", 409, 4, "later"),
  "run-ended": row("An operator has ended the run", 409, 4, "later"),
  "result-overdue": row("No result came in time", 504, 6, "later"),
  "travel-over": row("The travel is over", 409, 4, "never"),
  "travel-aborted": row("The travel was given up by choice", 409, 4, "later"),
  "progress-backwards": row("Loading cannot go back", 409, 2, "changed"),
  "arrived-already": row("The player has arrived already", 409, 4, "never"),
  "arrival-not-yours": row("Somebody else tells the arrival", 409, 4, "changed"),
  "destination-not-requested": row("Another destination is being prepared", 409, 4, "never"),
  "address-unusable": row("The address cannot be used", 422, 2, "changed"),
  "world-unreachable": row("The member's world cannot be reached", 503, 6, "changed"),
  "world-declined": row("The member cannot run the world", 409, 4, "later"),
  "pass-too-soon": row("A new boarding pass was asked for too soon", 429, 4, "later"),
  "pass-other-level": row("The boarding pass is for another level", 403, 5, "never"),
  "level-not-yours": row("The level is not picked by the host here", 403, 5, "never"),
  "relay-off": row("Instances are not reached through the service here", 404, 5, "never"),
  "relay-full": row("Too many players reach instances through the service", 503, 6, "later"),
  "queue-unknown": row("There is no such queue", 404, 3, "changed"),
  "queue-closed": row("The queue takes nobody now", 409, 4, "later"),
  "queue-elsewhere": row("The queue belongs to another lobby", 409, 4, "changed"),
  "ticket-unknown": row("There is no such ticket", 404, 3, "changed"),
  "already-searching": row("The player is searching already", 409, 4, "changed"),
  "not-searching": row("The player is not searching", 409, 4, "never"),
  "search-too-soon": row("The player may not search again yet", 409, 4, "later"),
  "search-hopeless": row("No match could ever be made with this search", 422, 2, "changed"),
  "player-twice": row("A player is named twice", 422, 2, "changed"),
  "party-too-large": row("The party is too large", 422, 2, "changed"),
  "party-unknown": row("There is no such party", 404, 3, "changed"),
  "party-code-unknown": row("No party has this code", 404, 3, "changed"),
  "party-full": row("The party is full", 409, 4, "later"),
  "already-in-party": row("The player is in a party already", 409, 4, "changed"),
  "not-in-party": row("The player is in no party", 409, 4, "changed"),
  "not-party-leader": row("Only the party's leader may do this", 403, 5, "never"),
  "party-does-not-fit": row("Not all of the party can come along", 409, 4, "changed"),
  "room-password-needed": row("The room has a password", 403, 5, "changed"),
  "room-password-wrong": row("The password is another", 403, 5, "changed"),
  "passwords-too-fast": row("Too many passwords were tried", 429, 4, "later"),
  "not-friends": row("The players do not know each other", 403, 5, "changed"),
  "friend-elsewhere": row("The friend is where nobody can follow", 409, 4, "later"),
  "too-many-blocked": row("Too many are blocked", 409, 4, "changed"),
  "not-yourself": row("It is meant for somebody else", 422, 2, "changed"),
  "signals-off": row("Members pass each other no signals", 403, 5, "never"),
  "messages-off": row("Nobody can be sent a message here", 403, 5, "never"),
  "text-refused": row("The text is not let through", 422, 2, "changed"),
  "text-filter-unavailable": row("Texts cannot be looked at now", 503, 6, "later"),
  "reports-too-fast": row("Too many reports", 429, 4, "later"),
  "not-invited": row("There is no such invitation", 404, 3, "changed"),
  "attribute-missing": row("An attribute is missing", 422, 2, "changed"),
  "attribute-unknown": row("There is no such attribute", 422, 2, "changed"),
  "attribute-not-yours": row("The attribute is vouched for by the token", 403, 5, "never"),
  "attribute-invalid": row("An attribute is not as expected", 422, 2, "changed"),
  "region-unknown": row("There is no such region", 422, 2, "changed"),
  "match-gone": row("The match does not stand any more", 409, 4, "never"),
  "not-of-queue": row("The room is not one that its queue fills up", 409, 4, "never"),
  "traffic-invalid": row("The traffic cannot be read", 422, 2, "changed"),
  "travel-deadline": row("The travel took too long", 504, 6, "later"),
  "pool-unknown": row("There is no such pool", 404, 3, "changed"),
  "pool-unplanned": row("The pool keeps no instances ready", 409, 4, "changed"),
  "machine-unknown": row("There is no such machine", 404, 3, "changed"),
  "machine-known": row("A machine of that name has joined before", 409, 4, "changed"),
  "machine-group-full": row("The group has as many machines as it may", 409, 4, "later"),
  "agent-token-invalid": row("The agent's token is not valid", 401, 5, "changed"),
  "build-line-unknown": row("There is no such build line", 404, 3, "changed"),
  "build-version-unknown": row("The build line has no such version", 404, 3, "changed"),
  "build-exists": row("The version is there already, with another way to run", 409, 4, "changed"),
  "roll-out-under-way": row("Another version is being rolled out", 409, 4, "later"),
  "no-roll-out": row("There is nothing to roll back to", 409, 4, "changed"),
  "no-instance": row("No instance could be had", 503, 6, "later"),
  "instance-lost": row("The instance was lost", 503, 6, "later"),
  "operator-token-needed": row("An operator token is needed", 401, 5, "changed"),
  "role-needed": row("The key may not do this", 403, 5, "changed"),
  "too-many-requests": row("Too many requests", 429, 4, "later"),
  "keys-too-fast": row("Too many wrong keys", 429, 5, "later"),
  "session-ended": row("The session has ended", 401, 5, "changed"),
  "session-unknown": row("There is no such session", 404, 3, "changed"),
  "origin-not-allowed": row("The request comes from another site", 403, 5, "never"),
  "log-in-code-invalid": row("The log-in code is not valid", 401, 5, "changed"),
  "webhook-unknown": row("There is no such webhook", 404, 3, "changed"),
  "key-unknown": row("There is no such key", 404, 3, "changed"),
  "host-not-allowed": row("The Host header names another service", 421, 5, "changed"),
  "not-found": row("There is nothing at this address", 404, 3, "never"),
  "journal-unavailable": row("The journal cannot be written", 503, 6, "later", 4501),
  "service-halted": row("A fault has stopped the service", 503, 6, "later", 4501),
  "data-locked": row("The data folder is in use by another process", 503, 6, "later"),
  "data-unusable": row("The data folder cannot be used", 503, 6, "changed"),
  "passphrase-needed": row("The backup is sealed with a passphrase", 422, 2, "changed"),
  "passphrase-wrong": row("The passphrase is another one", 422, 2, "changed"),
  "start-refused": row("The service is not started so", 422, 7, "changed"),
  "port-taken": row("The port is taken", 503, 6, "changed"),
  "service-unreachable": row("The service does not answer", 503, 6, "later"),
  "answer-unexpected": row("The answer is not what was expected", 502, 6, "changed"),
  "config-unreadable": row("The configuration cannot be read", 422, 7, "changed"),
  "config-invalid": row("The configuration is not valid", 422, 7, "changed"),
  "wait-over": row("What was waited for has not come about yet", 504, 4, "later"),
  usage: row("The command is not used this way", 422, 2, "changed"),
  internal: row("A fault of the service", 500, 1, "later", 4502),
} as const satisfies Record<string, ProblemKind>;

export type ProblemCode = keyof typeof problemTable;

export const problemCodes = Object.keys(problemTable) as [ProblemCode, ...ProblemCode[]];

export const ProblemCode = z.enum(problemCodes).meta({ id: "ProblemCode", description: "Stable code of a problem." });

/** One field that does not fit: where, what is wrong with it. */
export const FieldFault = z
  .object({
    path: z.string().meta({ description: "Path of the field, such as args.capacity." }),
    message: z.string(),
  })
  .meta({ id: "FieldFault" });
export type FieldFault = z.infer<typeof FieldFault>;

/** Why a room cannot start: one row for each thing that is missing. */
export const Missing = z
  .discriminatedUnion("code", [
    z.object({ code: z.literal("level"), text: z.string() }),
    z.object({ code: z.literal("players"), text: z.string(), needed: z.int() }),
    z.object({ code: z.literal("too-many"), text: z.string(), over: z.int() }),
    z.object({ code: z.literal("sides"), text: z.string(), apart: z.int() }),
    z.object({ code: z.literal("ready"), text: z.string(), player: z.string() }),
    z.object({ code: z.literal("away"), text: z.string(), player: z.string() }),
  ])
  .meta({ id: "Missing", description: "Something a room still needs before it can start." });
export type Missing = z.infer<typeof Missing>;

/** A refusal as it goes over any wire: RFC 9457 problem details with a stable code. */
export const Problem = z
  .object({
    type: z.string().meta({ description: "URN of the code (RFC 9457, section 3.1.1)." }),
    title: z.string(),
    status: z.int(),
    code: ProblemCode,
    detail: z.string().meta({ description: "What was wrong, what was expected, what to do." }),
    fields: z.array(FieldFault).optional(),
    accepted: z.array(z.string()).optional().meta({ description: "What would be accepted instead." }),
    missing: z.array(Missing).optional().meta({ description: "What the room still needs to start." }),
    current: z
      .record(z.string(), z.unknown())
      .optional()
      .meta({ description: "What is there now, when a change was made from something older." }),
    retryEveryMs: z.int().min(1).optional().meta({
      description:
        "With shutting-down: the service is expected back in a moment. Try again after this long, on average, and go on so for 30 s.",
    }),
    retryAfterMs: z.int().min(0).optional().meta({
      description: "With shutting-down: it is not back before that; the first try is to wait for so long.",
    }),
    retryUrl: z.string().optional().meta({
      description: "With shutting-down: address to come back to, when that is another one.",
    }),
  })
  .meta({ id: "Problem", description: "Problem details (RFC 9457)." });
export type Problem = z.infer<typeof Problem>;

/** The part of a problem that is not in the table. */
export type ProblemExtras = Pick<
  Problem,
  "fields" | "accepted" | "missing" | "current" | "retryEveryMs" | "retryAfterMs" | "retryUrl"
>;

/** Completes a code and a detail to problem details from the table. */
export function problem(code: ProblemCode, detail: string, extras: ProblemExtras = {}): Problem {
  const { title, status } = problemTable[code];
  return { type: `urn:yellow-harbor:problem:${code}`, title, status, code, detail, ...extras };
}
