import { z } from "zod";
import { AccountId, BanView } from "./accounts.ts";
import { AlertView } from "./alerts.ts";
import { AuditEntry } from "./audit.ts";
import { ConfigName, InstanceId, PlayerId, RoomId, RunId, SideName } from "./ids.ts";
import { TicketEnd } from "./queues.ts";
import { SideStanding, Verdict } from "./results.ts";
import { DestinationKind } from "./travel.ts";
import { DepartedReason } from "./update.ts";
import { InstanceState } from "./views.ts";
import { peopleEvents } from "./webhook-people-events.ts";
import {
  ansel,
  brisa,
  event,
  WebhookInstance as Instance,
  instance,
  members,
  WebhookPlayer as Player,
  WebhookRoom as Room,
  room,
  run,
  why,
} from "./webhook-shapes.ts";

const alert = {
  alert: "pool-full",
  subject: "sluice",
  severity: "page",
  sinceMs: 1_795_950_000_000,
  value: 1,
  over: 0.999,
  text: "Rooms hold 20 of the 20 instances that pool sluice may run.",
  remedy: "Rooms wait for one. Raise pools.sluice.max where the machines have room for more.",
} as const;

/** Everything that webhooks tell, by its type. */
export const webhookEvents = {
  ...peopleEvents,
  "room.opened": event(
    "room",
    "A room is open, with its first members; with none when an operator has opened it.",
    z.object({ room: Room, host: PlayerId.optional(), capacity: z.int(), members: z.array(Player) }),
    { room, host: ansel.id, capacity: 4, members: [ansel] },
  ),
  "room.joined": event(
    "room",
    "A player has joined a room.",
    z.object({ room: Room, player: Player, place: z.int(), side: SideName.optional(), members }),
    { room, player: brisa, place: 1, side: "north", members: 2 },
  ),
  "room.departed": event(
    "room",
    "A player is no member of a room any more.",
    z.object({ room: Room, player: Player, reason: DepartedReason, why: why.optional(), members }),
    { room, player: brisa, reason: "left", members: 1 },
  ),
  "room.host-changed": event(
    "room",
    "Another member is host, by what was asked for; one that follows from a departure comes with that.",
    z.object({ room: Room, host: PlayerId }),
    { room, host: brisa.id },
  ),
  "room.closed": event("room", "A room is closed.", z.object({ room: Room }), { room }),
  "run.started": event(
    "room",
    "A room sets out for a level.",
    z.object({ room: Room, run: RunId, level: ConfigName, players: z.array(Player) }),
    { room, run, level: "brine-gate", players: [ansel, brisa] },
  ),
  "run.playing": event(
    "room",
    "A room has arrived, and plays.",
    z.object({ room: Room, run: RunId, by: DestinationKind, instance: InstanceId.optional() }),
    { room, run, by: "dedicated", instance: instance.id },
  ),
  "run.finished": event(
    "room",
    "The result of a run is known.",
    z.object({
      room: Room,
      run: RunId,
      standings: z.array(z.object({ player: Player, rank: z.int(), score: z.number(), verdict: Verdict.optional() })),
      sides: z.array(SideStanding).optional(),
      payload: z.unknown().optional().meta({ description: "What else the game keeps of the run, as it was reported." }),
      note: z.string().optional(),
    }),
    {
      room,
      run,
      standings: [
        { player: ansel, rank: 1, score: 10 },
        { player: brisa, rank: 2, score: 9, verdict: "left" },
      ],
      sides: [
        { side: "north", rank: 1, score: 10 },
        { side: "south", rank: 2, score: 9 },
      ],
      payload: { stones: 41 },
    },
  ),
  "run.returned": event(
    "room",
    "A run came to nothing: the room is back where it was.",
    z.object({
      room: Room,
      run: RunId,
      code: z.string().meta({ description: "Code of a problem." }),
      why,
      void: z.boolean().meta({ description: "Whether it was being played." }),
    }),
    { room, run, code: "instance-lost", why: "The instance exited with code 1.", void: true },
  ),
  "rating.changed": event(
    "room",
    "The result of a match has changed the ratings of its accounts.",
    z.object({
      queue: ConfigName,
      room: RoomId,
      changes: z.array(
        z.object({
          account: AccountId,
          player: PlayerId,
          went: z.enum(["won", "lost", "drawn", "left"]),
          before: z.number(),
          after: z.number(),
          deviation: z.number(),
          matches: z.int(),
        }),
      ),
    }),
    {
      queue: "crews",
      room: "r_4kq2m7c9x0ab",
      changes: [
        {
          account: "game:4711",
          player: "p_4kq2m7c9x0ab",
          went: "won",
          before: 1_500,
          after: 1_662.31,
          deviation: 290.32,
          matches: 1,
        },
      ],
    },
  ),
  "match.made": event(
    "match",
    "A queue has made a match.",
    z.object({
      match: z.string(),
      queue: ConfigName,
      region: z.string().optional(),
      sides: z.array(z.array(Player)),
      waitsS: z.array(z.number()).meta({ description: "How long each of its tickets has waited." }),
    }),
    { match: "m_3cs9f2e7u6mn", queue: "crews", region: "north-quay", sides: [[ansel], [brisa]], waitsS: [12.4, 3.1] },
  ),
  "match.undone": event(
    "match",
    "A match came to nothing; its players search on where they want to.",
    z.object({ match: z.string(), queue: ConfigName, why }),
    { match: "m_3cs9f2e7u6mn", queue: "crews", why: "Brisa declined it." },
  ),
  "search.ended": event(
    "player",
    "A search has ended without a match.",
    z.object({ ticket: z.string(), queue: ConfigName, players: z.array(Player), cause: TicketEnd, why }),
    {
      ticket: "t_8gd5h0x2l4pq",
      queue: "crews",
      players: [ansel],
      cause: "nobody-found",
      why: "Nobody who fits was found in 120 s.",
    },
  ),
  "instance.launched": event("instance", "An instance is being started.", z.object({ instance: Instance, why }), {
    instance,
    why: "planned: 2 wanted, 1 runs",
  }),
  "instance.opened": event("instance", "An instance takes rooms.", z.object({ instance: Instance }), { instance }),
  "instance.failed": event(
    "instance",
    "Something is wrong with an instance, and it is given up.",
    z.object({ instance: Instance, why, rooms: z.array(RoomId) }),
    { instance, why: "It said nothing for 8 s.", rooms: [room.id] },
  ),
  "instance.exited": event(
    "instance",
    "The process of an instance is gone.",
    z.object({ instance: Instance, state: InstanceState, why, exitCode: z.int().nullable(), rooms: z.array(RoomId) }),
    { instance, state: "ended", why: "exited with code 0", exitCode: 0, rooms: [] },
  ),
  "build.added": event(
    "build",
    "A version of a dedicated server is registered.",
    z.object({ build: ConfigName, version: z.string() }),
    { build: "breakwater", version: "0.3.2" },
  ),
  "build.promoted": event(
    "build",
    "A version has taken over.",
    z.object({ build: ConfigName, version: z.string(), why }),
    { build: "breakwater", version: "0.3.2", why: "20 instances came up" },
  ),
  "build.rolled-back": event(
    "build",
    "A version was taken back.",
    z.object({ build: ConfigName, version: z.string(), why }),
    { build: "breakwater", version: "0.3.2", why: "3 of 5 instances failed" },
  ),
  "machine.joined": event("machine", "The agent of a machine has connected.", z.object({ machine: ConfigName }), {
    machine: "north-1",
  }),
  "machine.lost": event(
    "machine",
    "The agent of a machine is gone; its instances may run on.",
    z.object({ machine: ConfigName, why }),
    { machine: "north-1", why: "its connection closed" },
  ),
  "ban.set": event("ban", "Somebody is banned.", z.object({ ban: BanView }), {
    ban: {
      id: "x_6ft4j8n1v0rs",
      account: "game:4713",
      reason: "cheating",
      by: "key moderation",
      atMs: 1_795_950_000_000,
    },
  }),
  "ban.lifted": event("ban", "A ban is over before its time.", z.object({ ban: z.string(), by: z.string() }), {
    ban: "x_6ft4j8n1v0rs",
    by: "key moderation",
  }),
  "alert.raised": event("alert", "The service has raised an alert.", z.object({ alert: AlertView }), { alert }),
  "alert.cleared": event("alert", "What an alert was raised for is over.", z.object({ alert: AlertView }), { alert }),
  "audit.added": event(
    "audit",
    "An operator or a moderator has done something, or tried to. Only a webhook that names it is told.",
    z.object({ entry: AuditEntry.omit({ seq: true }) }),
    {
      entry: {
        atMs: 1_795_950_000_000,
        actor: { by: "key", id: "k_2mh6c8w4t9xz", name: "moderation", role: "operate" },
        from: "192.0.2.7",
        action: "banPlayer",
        target: ansel.id,
        reason: "cheating",
        result: "done",
      },
    },
  ),
  "webhook.test": event("webhook", "Somebody tries whether it arrives.", z.object({ webhook: ConfigName }), {
    webhook: "backend",
  }),
} as const;

export type WebhookEventType = keyof typeof webhookEvents;
export type WebhookEventData<T extends WebhookEventType> = z.input<(typeof webhookEvents)[T]["data"]>;
export const webhookEventTypes = Object.keys(webhookEvents) as WebhookEventType[];

/** Before the name of each type. */
export const WEBHOOK_TYPE_PREFIX = "yellow-harbor.";

/** One event as it is sent (CloudEvents 1.0). */
export const CloudEvent = z
  .object({
    specversion: z.literal("1.0"),
    id: z.string().meta({ description: "The same with each attempt: what came twice is known by it." }),
    source: z.string().meta({ description: "`/harbors/` and the name of the harbor." }),
    type: z.string().meta({ description: "`yellow-harbor.` and the type." }),
    subject: z.string().meta({ description: "What it is about: the id of a player, a room and so on." }),
    partitionkey: z.string().meta({ description: "Events with the same one come in their order." }),
    time: z.iso.datetime(),
    datacontenttype: z.literal("application/json"),
    data: z.unknown(),
  })
  .meta({ id: "CloudEvent", description: "An event as it is sent (CloudEvents 1.0, structured mode)." });
export type CloudEvent = z.infer<typeof CloudEvent>;
