import { banView, type EventKind, type HarborEvent, type HarborState, type Identity } from "@yellow-harbor/core";
import type { PlayerId, RoomId, WebhookEventData, WebhookEventType } from "@yellow-harbor/protocol";

type Player = WebhookEventData<"player.connected">["player"];
type Room = WebhookEventData<"room.closed">["room"];
type Instance = WebhookEventData<"instance.opened">["instance"];

/** One thing to be told. */
export type WebhookMessage = {
  [T in WebhookEventType]: {
    readonly type: T;
    /** What it is about. */
    readonly subject: string;
    readonly lobby?: string | undefined;
    readonly data: WebhookEventData<T>;
  };
}[WebhookEventType];

/** Players who have gone and are still remembered. */
const GONE_KEPT = 1_000;

/** Who and what is known, also of those who have just gone: the state has them no more when their going is told. */
export class Known {
  readonly #players = new Map<PlayerId, Player>();
  readonly #rooms = new Map<RoomId, Room>();
  readonly #gone: PlayerId[] = [];
  state: HarborState;

  constructor(state: HarborState) {
    this.state = state;
    for (const { id, name, identity } of state.players.byId.values()) this.meet({ id, name, identity });
    for (const id of state.rooms.byId.keys()) this.see(id);
  }

  meet({ id, name, identity }: { id: PlayerId; name: string; identity: Identity | null | undefined }): Player {
    const player: Player = identity ? { id, name, account: identity.account } : { id, name };
    this.#players.set(id, player);
    return player;
  }

  /** It is gone, and may still be named by what follows from that. */
  leave(player: PlayerId): void {
    this.#gone.push(player);
    if (this.#gone.length > GONE_KEPT) this.#forget(this.#gone.shift() ?? "");
  }

  #forget(player: PlayerId): void {
    if (!this.state.players.byId.has(player)) this.#players.delete(player);
  }

  player(id: PlayerId): Player {
    return this.#players.get(id) ?? { id, name: "" };
  }

  /** A room as it is now. */
  see(id: RoomId): Room {
    const room = this.state.rooms.byId.get(id);
    if (room === undefined) return this.#rooms.get(id) ?? { id, code: "", name: "", kind: "unknown", lobby: "unknown" };
    const { code, name, kind, lobby } = room;
    const seen: Room = { id, code, name, kind, lobby };
    this.#rooms.set(id, seen);
    return seen;
  }

  close(room: RoomId): void {
    this.#rooms.delete(room);
  }

  members(room: RoomId): number {
    return this.state.rooms.byId.get(room)?.members.size ?? 0;
  }

  membersOf(party: string): number {
    return this.state.parties.byId.get(party)?.members.size ?? 0;
  }

  partyLobby(party: string): string | undefined {
    return this.state.parties.byId.get(party)?.lobby;
  }

  roomOf(player: PlayerId): { readonly room?: RoomId } {
    const room = this.state.players.byId.get(player)?.room;
    return room == null ? {} : { room };
  }

  lobbyOf(player: PlayerId): string {
    return this.state.players.byId.get(player)?.lobby ?? "unknown";
  }

  instance(id: string): Instance | undefined {
    const instance = this.state.pools.instances.get(id);
    if (instance === undefined) return undefined;
    const { pool, build, version, machine } = instance;
    return { id, pool, build, version, machine };
  }
}

type Telling<K extends EventKind> = (
  event: Extract<HarborEvent, { kind: K }>,
  known: Known,
  atMs: number,
) => WebhookMessage | undefined;

/** What is told of each kind of event. */
const tellings: { readonly [K in EventKind]?: Telling<K> } = {
  "player.connected": ({ player: id, name, identity, lobby, build }, known) => {
    const player = known.meet({ id, name, identity });
    return { type: "player.connected", subject: id, lobby, data: { player, lobby, build } };
  },
  "player.identified": ({ player: id, identity }, known) => {
    known.meet({ id, name: known.player(id).name, identity });
    return undefined;
  },
  "player.lost": ({ player: id, untilMs }, known) => {
    const lobby = known.lobbyOf(id);
    const data = { player: known.player(id), lobby, ...known.roomOf(id), untilMs };
    return { type: "player.lost", subject: id, lobby, data };
  },
  "player.resumed": ({ player: id }, known) => {
    const lobby = known.lobbyOf(id);
    return {
      type: "player.resumed",
      subject: id,
      lobby,
      data: { player: known.player(id), lobby, ...known.roomOf(id) },
    };
  },
  "player.left": ({ player: id, lobby, room, reason }, known) => {
    const player = known.player(id);
    known.leave(id);
    return { type: "player.left", subject: id, lobby, data: { player, lobby, ...(room !== null && { room }), reason } };
  },

  "player.reported": ({ kind: _, player, said, ...rest }) => ({
    type: "player.reported",
    subject: player.id,
    lobby: rest.lobby,
    data: { player, said: [...said], ...rest },
  }),

  "room.opened": ({ room: id, host, capacity, lobby, match }, known) => {
    const members = [host, ...(match?.others ?? []).map((other) => other.id)].map((one) => known.player(one));
    return { type: "room.opened", subject: id, lobby, data: { room: known.see(id), host, capacity, members } };
  },
  "room.set-up": ({ room: id, capacity, lobby }, known) => {
    return { type: "room.opened", subject: id, lobby, data: { room: known.see(id), capacity, members: [] } };
  },
  "room.joined": ({ room: id, lobby, player, place, side }, known) => {
    const who = { player: known.player(player), place, ...(side !== undefined && { side }) };
    return {
      type: "room.joined",
      subject: id,
      lobby,
      data: { room: known.see(id), ...who, members: known.members(id) },
    };
  },
  "room.departed": ({ room: id, lobby, player, reason, why }, known) => {
    const data = { room: known.see(id), player: known.player(player), reason, ...(why !== undefined && { why }) };
    return { type: "room.departed", subject: id, lobby, data: { ...data, members: known.members(id) } };
  },
  "room.host-changed": ({ room: id, host }, known) => {
    const room = known.see(id);
    return { type: "room.host-changed", subject: id, lobby: room.lobby, data: { room, host } };
  },
  "room.closed": ({ room: id, lobby }, known) => {
    const room = known.see(id);
    known.close(id);
    return { type: "room.closed", subject: id, lobby, data: { room } };
  },

  "room.started": ({ room: id, run, request }, known) => {
    const room = known.see(id);
    const players = request.members.map((member) => known.player(member.id));
    const data = { room, run, level: request.level.id, players };
    return { type: "run.started", subject: id, lobby: room.lobby, data };
  },
  "room.playing": ({ room: id, run, destination }, known) => {
    const room = known.see(id);
    const where = destination.by === "dedicated" ? { instance: destination.instance } : {};
    return { type: "run.playing", subject: id, lobby: room.lobby, data: { room, run, by: destination.by, ...where } };
  },
  "room.result-set": ({ room: id, run, standings, sides, payload, note }, known) => {
    const room = known.see(id);
    const ranked = standings.map(({ player, ...row }) => ({ player: known.player(player), ...row }));
    const data = {
      room,
      run,
      standings: ranked,
      ...(sides && { sides: [...sides] }),
      ...(payload !== undefined && { payload }),
      ...(note !== undefined && { note }),
    };
    return { type: "run.finished", subject: id, lobby: room.lobby, data };
  },
  "room.returned": ({ room: id, run, code, detail, void: isVoid = false }, known) => {
    const room = known.see(id);
    return {
      type: "run.returned",
      subject: id,
      lobby: room.lobby,
      data: { room, run, code, why: detail, void: isVoid },
    };
  },

  "queue.matched": ({ queue, match, region, sides }, known, atMs) => {
    const tickets = known.state.queues.matches.get(match)?.tickets ?? [];
    const waitsS = tickets.map(({ sinceMs }) => Math.max(0, atMs - (sinceMs ?? atMs)) / 1_000);
    const teams = sides.map((side) => side.map((player) => known.player(player)));
    const data = { match, queue, ...(region !== null && { region }), sides: teams, waitsS };
    return { type: "match.made", subject: match, lobby: tickets[0]?.lobby, data };
  },
  "queue.undone": ({ queue, match, why }, known) => {
    const lobby = known.state.queues.matches.get(match)?.tickets[0]?.lobby;
    return { type: "match.undone", subject: match, lobby, data: { match, queue, why } };
  },
  "queue.ticket-ended": ({ queue, ticket, players: ids, cause, detail }, known) => {
    const players = ids.map((id) => known.player(id));
    const [first = ticket] = ids;
    const lobby = known.state.players.byId.get(first)?.lobby;
    return { type: "search.ended", subject: first, lobby, data: { ticket, queue, players, cause, why: detail } };
  },

  "party.opened": ({ party, lobby, leader: { id } }, known) => {
    return { type: "party.opened", subject: party, lobby, data: { party, lobby, leader: known.player(id) } };
  },
  "party.joined": ({ party, member: { id } }, known) => {
    const data = { party, player: known.player(id), members: known.membersOf(party) };
    return { type: "party.joined", subject: party, lobby: known.lobbyOf(id), data };
  },
  "party.left": ({ party, player: id, cause, why, leader }, known) => {
    const said = {
      cause,
      ...(why !== undefined && { why }),
      ...(leader !== undefined && { leader: known.player(leader) }),
    };
    const data = { party, player: known.player(id), ...said, members: known.membersOf(party) };
    return { type: "party.left", subject: party, lobby: known.partyLobby(party), data };
  },
  "party.led": ({ party, leader }, known) => {
    const data = { party, leader: known.player(leader) };
    return { type: "party.led", subject: party, lobby: known.lobbyOf(leader), data };
  },

  "instance.launched": ({ instance: id, why }, known) => {
    const instance = known.instance(id);
    return instance && { type: "instance.launched", subject: id, data: { instance, why } };
  },
  "instance.opened": ({ instance: id }, known) => {
    const instance = known.instance(id);
    return instance && { type: "instance.opened", subject: id, data: { instance } };
  },
  "instance.failed": ({ instance: id, why, rooms }, known) => {
    const instance = known.instance(id);
    return instance && { type: "instance.failed", subject: id, data: { instance, why, rooms: [...rooms] } };
  },
  "instance.exited": ({ instance: id, state, why, exitCode, rooms }, known) => {
    const instance = known.instance(id);
    const data = instance && { instance, state, why, exitCode, rooms: [...rooms] };
    return data && { type: "instance.exited", subject: id, data };
  },

  "build.added": ({ line, version }) => ({ type: "build.added", subject: line, data: { build: line, version } }),
  "build.promoted": ({ line, version, why }) => ({
    type: "build.promoted",
    subject: line,
    data: { build: line, version, why },
  }),
  "build.rolled-back": ({ line, version, why }) => ({
    type: "build.rolled-back",
    subject: line,
    data: { build: line, version, why },
  }),
  "machine.joined": ({ machine }) => ({ type: "machine.joined", subject: machine, data: { machine } }),
  "machine.lost": ({ machine, why }) => ({ type: "machine.lost", subject: machine, data: { machine, why } }),
  "rating.changed": ({ queue, room, changes }) => ({
    type: "rating.changed",
    subject: room,
    data: {
      queue,
      room,
      changes: changes.map(({ account, player, went, before, after: { rating, deviation, matches } }) => {
        return { account, player, went, before, after: rating, deviation, matches };
      }),
    },
  }),
  "ban.set": ({ ban }) => ({ type: "ban.set", subject: ban.id, data: { ban: banView(ban) } }),
  "ban.lifted": ({ ban, by }) => ({ type: "ban.lifted", subject: ban, data: { ban, by } }),
};

export function messageOf(event: HarborEvent, known: Known, atMs: number): WebhookMessage | undefined {
  const telling = tellings[event.kind] as Telling<EventKind> | undefined;
  return telling?.(event, known, atMs);
}
