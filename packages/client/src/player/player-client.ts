import {
  type BoardingPass,
  type InvitationView,
  type Missed,
  type PlayerArgsTyped,
  type PlayerAsk,
  type PlayerReply,
  playerRequests,
  type RoomListing,
  type TicketView,
  writeRelayBytes,
} from "@yellow-harbor/protocol";
import { AttributeVerbs } from "./attribute-verbs.ts";
import { BoardVerbs } from "./board-verbs.ts";
import { BrowsingVerbs } from "./browsing-verbs.ts";
import { DirectVerbs } from "./direct-verbs.ts";
import { Emitter } from "./emitter.ts";
import { InvitingVerbs } from "./inviting-verbs.ts";
import { LobbyVerbs } from "./lobby-verbs.ts";
import type { PlayerOptions } from "./options.ts";
import { PartyVerbs } from "./party-verbs.ts";
import type { PlayerEvents } from "./player-client-events.ts";
import { PlayerSession } from "./player-session.ts";
import { RegionVerbs } from "./region-verbs.ts";
import { RelationVerbs } from "./relation-verbs.ts";
import { platformSocket } from "./socket.ts";
import type { PlayerState } from "./state.ts";
import { tellAttention } from "./tell-attention.ts";
import { TravelVerbs } from "./travel-verbs.ts";
import { waitFor } from "./waiting.ts";

/**
 * A player's connection. Keeps the state of the lobby or room current, asks, and comes back by itself after a lost
 * connection. Requests reject with {@link ProblemError}.
 */
export class PlayerClient {
  readonly #options: PlayerOptions;
  readonly #events = new Emitter<PlayerEvents>();
  readonly #session: PlayerSession;
  /** What there is to say on the way to the run under way. */
  readonly travel: TravelVerbs;
  readonly inviting: InvitingVerbs;
  readonly attributes: AttributeVerbs;
  readonly lobbies: LobbyVerbs;
  readonly direct: DirectVerbs;
  /** The regions of the game, and how far away they are. */
  readonly regions: RegionVerbs;
  /** The rooms of the lobby, the nearest first. */
  readonly browser: BrowsingVerbs;
  readonly board: BoardVerbs;
  /** Friends, and those who are blocked. */
  readonly relations: RelationVerbs;
  /** The party one is in, and what there is to say of parties. */
  readonly parties: PartyVerbs;

  private constructor(options: PlayerOptions) {
    this.#options = options;
    this.#session = new PlayerSession(options, this.#events);
    const ask = <A extends PlayerAsk>(name: A, args: PlayerArgsTyped<A>) => this.ask(name, args);
    this.inviting = new InvitingVerbs(ask);
    this.attributes = new AttributeVerbs(ask);
    this.lobbies = new LobbyVerbs(ask, () => this.#session.followAgain());
    this.direct = new DirectVerbs(ask);
    const ways = { url: options.url, socket: options.socket ?? platformSocket, udp: options.udpEchoes };
    this.regions = new RegionVerbs(ask, ways);
    const [session, events] = [this.#session, this.#events];
    this.browser = new BrowsingVerbs({ ask, session, events, regions: this.regions, ways });
    this.board = new BoardVerbs(ask, () => this.state.room, session.own.privateEntries);
    this.relations = new RelationVerbs(ask, this.#session);
    this.parties = new PartyVerbs(ask, this.#session.own.parties);
    this.travel = new TravelVerbs(ask, () => this.state.room);
    tellAttention(this);
  }

  /** Connects and says hello. Rejects with {@link ProblemError} when the service refuses or does not answer. */
  static async connect(options: PlayerOptions): Promise<PlayerClient> {
    const client = new PlayerClient(options);
    await client.#session.begin(options.resume);
    return client;
  }

  get id(): string {
    return this.#session.known.player.id;
  }

  get name(): string {
    return this.#session.known.player.name;
  }

  /** Account, such as `game:4711`; undefined for a guest without a device key. */
  get account(): string | undefined {
    return this.#session.known.player.account;
  }

  /** Token for {@link PlayerOptions.resume}; each welcome brings a new one. Whoever has it is this player: keep it like a password. */
  get resumeToken(): string {
    return this.#session.known.resume;
  }

  get state(): PlayerState {
    return this.#session.state;
  }

  /** The pass for the run under way, if there is one. It works once. */
  get pass(): BoardingPass | undefined {
    return this.#session.pass;
  }

  /** Places that rooms keep for one, the first to end first. */
  get invitations(): readonly InvitationView[] {
    return this.#session.own.invitations;
  }

  get ticket(): TicketView | undefined {
    return this.#session.own.ticket;
  }

  /** What happened to the player while it was away before the last welcome, the oldest first. */
  get missed(): readonly Missed[] {
    return this.#session.known.missed ?? [];
  }

  get isConnected(): boolean {
    return this.#session.isConnected;
  }

  on<K extends keyof PlayerEvents>(kind: K, listener: (event: PlayerEvents[K]) => void): () => void {
    return this.#events.on(kind, listener);
  }

  /** Asks the service. Rejects with {@link ProblemError} when refused, or when the connection is lost before the answer. */
  async ask<A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>): Promise<PlayerReply<A>> {
    const reply = await this.#session.link.request(ask, args);
    return (this.#options.strict ? playerRequests[ask].reply.parse(reply) : reply) as PlayerReply<A>;
  }

  /** Begins to search in a queue, alone or as the leader of a party whose members are asked. */
  search(args: PlayerArgsTyped<"queue.join">): Promise<PlayerReply<"queue.join">> {
    return this.ask("queue.join", args);
  }

  /** Agrees to the search that one is asked to join. */
  agreeToSearch(args: PlayerArgsTyped<"queue.agree">): Promise<PlayerReply<"queue.agree">> {
    return this.ask("queue.agree", args);
  }

  cancelSearch(): Promise<PlayerReply<"queue.cancel">> {
    return this.ask("queue.cancel", {});
  }

  /** Accepts the match that one is asked about, or declines it. Which one: `ticket.confirm.match`. */
  confirmMatch(args: PlayerArgsTyped<"queue.confirm">): Promise<PlayerReply<"queue.confirm">> {
    return this.ask("queue.confirm", args);
  }

  listQueues(): Promise<PlayerReply<"queue.list">> {
    return this.ask("queue.list", {});
  }

  /** The search one is in, asked for anew: with the present estimate. Refused when one is in none. */
  ownTicket(): Promise<PlayerReply<"queue.ticket">> {
    return this.ask("queue.ticket", {});
  }

  /** Has the queue of the room that plays look for players in the place of those who left, or stop that. */
  backfill(wanted: boolean): Promise<PlayerReply<"queue.backfill">> {
    return this.ask("queue.backfill", { wanted });
  }

  openRoom(args: PlayerArgsTyped<"room.open"> = {}): Promise<PlayerReply<"room.open">> {
    return this.ask("room.open", args);
  }

  joinRoom(args: PlayerArgsTyped<"room.join">): Promise<PlayerReply<"room.join">> {
    return this.ask("room.join", args);
  }

  /** Joins the listed room of that name, or opens it. */
  joinOrOpen(args: PlayerArgsTyped<"room.join-or-open">): Promise<PlayerReply<"room.join-or-open">> {
    return this.ask("room.join-or-open", args);
  }

  /** The kinds of rooms that one's lobby has, with what their settings may be. */
  listRoomKinds(): Promise<PlayerReply<"room.kinds">> {
    return this.ask("room.kinds", {});
  }

  /** Looks on in a room; with {@link joinRoom} one becomes a member of it. */
  watchRoom(args: PlayerArgsTyped<"room.watch">): Promise<PlayerReply<"room.watch">> {
    return this.ask("room.watch", args);
  }

  leaveRoom(): Promise<PlayerReply<"room.leave">> {
    return this.ask("room.leave", {});
  }

  /** A page of the lobby's directory, filtered and sorted. */
  listRooms(wanted: PlayerArgsTyped<"lobby.rooms"> = {}): Promise<PlayerReply<"lobby.rooms">> {
    return this.ask("lobby.rooms", wanted);
  }

  /** Follows the lobby's directory: `directory` events tell what it is, now and after each change, also after a resume. */
  followRooms(wanted: PlayerArgsTyped<"lobby.follow"> = {}): Promise<void> {
    return this.#session.follow(wanted);
  }

  get directory(): { readonly rooms: readonly RoomListing[]; readonly total: number } | undefined {
    return this.#session.directory?.now;
  }

  async unfollowRooms(): Promise<void> {
    this.#session.unfollow();
    await this.ask("lobby.unfollow", {});
  }

  /** Sends a chat message to everybody in the lobby, where the lobby allows chat. */
  chat(text: string): Promise<PlayerReply<"lobby.chat">> {
    return this.ask("lobby.chat", { text });
  }

  listLevels(): Promise<PlayerReply<"level.list">> {
    return this.ask("level.list", {});
  }

  pickLevel(level: string): Promise<PlayerReply<"room.pick-level">> {
    return this.ask("room.pick-level", { level });
  }

  /** Joins the best open room of the lobby, else opens one. */
  quickJoin(args: PlayerArgsTyped<"room.quick-join"> = {}): Promise<PlayerReply<"room.quick-join">> {
    return this.ask("room.quick-join", args);
  }

  changeRoom(change: PlayerArgsTyped<"room.change">): Promise<PlayerReply<"room.change">> {
    return this.ask("room.change", change);
  }

  handOver(to: string): Promise<PlayerReply<"room.hand-over">> {
    return this.ask("room.hand-over", { to });
  }

  /** Says that one is still here, when one is asked; whatever else one does says so too. */
  sayHere(): Promise<PlayerReply<"room.here">> {
    return this.ask("room.here", {});
  }

  /** Kicks a member from the room; with `ban` it cannot join again. */
  kick(player: string, how: { reason?: string; ban?: boolean } = {}): Promise<PlayerReply<"room.kick">> {
    return this.ask("room.kick", { player, ...how });
  }

  unban(player: string): Promise<PlayerReply<"room.unban">> {
    return this.ask("room.unban", { player });
  }

  /** Moves to another place of the room, or to another side. */
  moveTo(where: PlayerArgsTyped<"room.move-to">): Promise<PlayerReply<"room.move-to">> {
    return this.ask("room.move-to", where);
  }

  swapWith(player: string): Promise<PlayerReply<"room.swap">> {
    return this.ask("room.swap", { with: player });
  }

  balanceSides(): Promise<PlayerReply<"room.balance">> {
    return this.ask("room.balance", {});
  }

  /** Passes a message to the other members, to all, to one, or to a side. It is not kept: what must be known later is no message. */
  relay(
    body: unknown,
    to: "all" | "others" | (string & {}) | { side: string } = "others",
  ): Promise<PlayerReply<"room.relay">> {
    return this.ask("room.relay", { to, body });
  }

  /** The same with bytes, in a binary frame. It has no answer: a `refused` event says when it could not be passed on. */
  relayBytes(body: Uint8Array, to: "all" | "others" | (string & {}) | { side: string } = "others"): void {
    this.#session.link.sendBytes(writeRelayBytes({ to, body }));
  }

  setReady(ready: boolean): Promise<PlayerReply<"room.ready">> {
    return this.ask("room.ready", { ready });
  }

  start(): Promise<PlayerReply<"room.start">> {
    return this.ask("room.start", {});
  }

  /** Says which level one is for, where levels are voted for. */
  vote(level: string): Promise<PlayerReply<"room.vote">> {
    return this.ask("room.vote", { level });
  }

  /** Says that the game has gone to the background, or is in front again. On a page that is said by itself. */
  setBackground(background: boolean): Promise<PlayerReply<"room.set-background">> {
    return this.ask("room.set-background", { background });
  }

  stopCount(): Promise<PlayerReply<"room.stop-count">> {
    return this.ask("room.stop-count", {});
  }

  /** Sets the result of the run, where the room kind leaves that to the host. Scores: higher is better. */
  setResult(outcome: PlayerArgsTyped<"room.set-result">): Promise<PlayerReply<"room.set-result">> {
    return this.ask("room.set-result", outcome);
  }

  /** While results are shown: starts again, with who is here. */
  playAgain(how: PlayerArgsTyped<"room.again"> = {}): Promise<PlayerReply<"room.again">> {
    return this.ask("room.again", how);
  }

  /** While results are shown: gathers again, now. */
  gather(): Promise<PlayerReply<"room.gather">> {
    return this.ask("room.gather", {});
  }

  passTurn(how: PlayerArgsTyped<"room.pass-turn"> = {}): Promise<PlayerReply<"room.pass-turn">> {
    return this.ask("room.pass-turn", how);
  }

  endTurns(): Promise<PlayerReply<"room.end-turns">> {
    return this.ask("room.end-turns", {});
  }

  /** Says goodbye for good and waits until the service has closed the connection. */
  async leave(): Promise<void> {
    if (this.#session.isOver) return;
    await this.ask("player.leave", {});
    this.#session.finish(undefined);
  }

  /** Drops the connection without a goodbye: the service keeps the place for the grace. */
  drop(): void {
    this.#session.finish(undefined);
  }

  /** Resolves with the first state for which `holds` is true, now or later. Rejects after `withinMs`, or when it is over. */
  until(holds: (state: PlayerState) => boolean, withinMs = 30_000): Promise<PlayerState> {
    if (holds(this.state)) return Promise.resolve(this.state);
    return waitFor(this, withinMs, (resolve) => this.on("change", ({ state }) => holds(state) && resolve(state)));
  }

  /** Resolves with the pass that may be used now, or with the next one. */
  nextPass(withinMs = 60_000): Promise<BoardingPass> {
    if (this.pass) return Promise.resolve(this.pass);
    return waitFor(this, withinMs, (resolve) => this.on("pass", resolve));
  }
}
