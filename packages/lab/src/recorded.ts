import type { MatchAttributes, TicketNeed } from "@yellow-harbor/core";
import type { TicketLine } from "./traffic.ts";

/** An event of a journal, as `yh journal --json` prints it. */
export interface Recorded {
  readonly atMs: number;
  readonly kind: string;
  readonly event: Readonly<Record<string, unknown>>;
}

export interface RecordedTraffic {
  /** In the order in which they began to search; the first at 0 s. */
  readonly tickets: readonly TicketLine[];
  /** Tickets that ended without having begun in what was recorded: they are left out. */
  readonly unknown: number;
}

interface Player {
  readonly id: string;
  readonly attributes: MatchAttributes;
  readonly latencyMs: Readonly<Record<string, number>>;
}

interface Begun {
  readonly id: string;
  players: readonly Player[];
  readonly needs: readonly TicketNeed[];
  sinceMs: number | null;
  gaveUpMs?: number;
}

/** Ends by which a player gives up; whoever was matched, or found nobody, would have gone on searching. */
const GIVEN_UP: ReadonlySet<unknown> = new Set(["cancelled", "player-left", "went-elsewhere"]);

/**
 * The traffic of a queue out of the events of a journal: who began to search when, with what, and who gave up. What
 * became of it otherwise is left out, since that is for the rules to say that it is played with; so is the time in which
 * a player was away.
 */
export function recordedTraffic(events: Iterable<Recorded>, queue: string): RecordedTraffic {
  const begun = new Map<string, Begun>();
  let unknown = 0;
  for (const recorded of events) {
    if (!isOf(recorded, queue, begun)) continue;
    if (!take(begun, recorded)) unknown += 1;
  }
  const searched = [...begun.values()]
    .filter((one): one is Begun & { sinceMs: number } => one.sinceMs !== null)
    .sort((a, b) => a.sinceMs - b.sinceMs);
  const from = searched[0]?.sinceMs ?? 0;
  return { tickets: searched.map((one) => lineOf(one, from)), unknown };
}

/** Whether an event is of a queue: a ticket may search in several, and its events name the first. */
function isOf({ event }: Recorded, queue: string, begun: ReadonlyMap<string, Begun>): boolean {
  const ticket = event["ticket"];
  if (typeof ticket === "string" && begun.has(ticket)) return true;
  const { also = [] } = (ticket ?? {}) as { readonly also?: readonly string[] };
  return event["queue"] === queue || also.includes(queue);
}

/** Takes an event in; false when it speaks of a ticket that is not known. */
function take(begun: Map<string, Begun>, { atMs, kind, event }: Recorded): boolean {
  if (kind === "queue.ticket-opened") {
    const { id, players, needs, sinceMs } = event["ticket"] as Begun;
    // A match that came to nothing has put it back: it searches on.
    if (event["again"] === undefined) begun.set(id, { id, players, needs, sinceMs });
    return event["again"] === undefined || begun.has(id);
  }
  if (kind !== "queue.agreed" && kind !== "queue.ticket-ended") return true;
  const ticket = begun.get(event["ticket"] as string);
  if (ticket === undefined) return false;
  if (kind === "queue.agreed") {
    const { attributes, latencyMs } = event as Pick<Player, "attributes" | "latencyMs">;
    const search = event["search"] as { readonly sinceMs: number } | undefined;
    const player = event["player"];
    ticket.players = ticket.players.map((one) => (one.id === player ? { ...one, attributes, latencyMs } : one));
    if (search) ticket.sinceMs = search.sinceMs;
  } else if (GIVEN_UP.has(event["cause"])) ticket.gaveUpMs = atMs;
  return true;
}

function lineOf({ id, players, needs, sinceMs, gaveUpMs }: Begun & { sinceMs: number }, fromMs: number): TicketLine {
  const seconds = (ms: number) => Math.round(ms - fromMs) / 1_000;
  return {
    at: seconds(sinceMs),
    ticket: id,
    players: players.map((player) => ({
      id: player.id,
      attributes: player.attributes as NonNullable<TicketLine["players"][number]["attributes"]>,
      ...(Object.keys(player.latencyMs).length > 0 && { latencyMs: { ...player.latencyMs } }),
    })),
    ...(needs.length > 0 && { needs: needs as NonNullable<TicketLine["needs"]> }),
    ...(gaveUpMs !== undefined && { cancelAt: seconds(gaveUpMs) }),
  };
}
