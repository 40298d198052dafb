import { type PlayerAsk, type PlayerId, type Problem, problem } from "@yellow-harbor/protocol";
import type { AddressQuota } from "../front-door/address-gate.ts";
import { RateLimit } from "../front-door/rate-limit.ts";

/**
 * What carrying out a request costs, in units of about a tenth of a millisecond of the service's time; 1 where nothing is
 * said. What is kept or sent on counts by its bytes beside that.
 */
const COST: Partial<Readonly<Record<PlayerAsk, number>>> = {
  "lobby.rooms": 10,
  "lobby.follow": 20,
  "friends.list": 20,
  "friends.follow": 30,
  "blocks.add": 4,
  "player.report": 10,
  "player.message": 2,
  "player.switch-lobby": 10,
  "lobby.list": 2,
  "queue.join": 10,
  "queue.agree": 5,
  "queue.list": 3,
  "room.open": 10,
  "room.join-or-open": 6,
  "room.quick-join": 6,
  "room.join": 4,
  "room.watch": 4,
  "room.change": 3,
  "room.invite": 5,
  "room.start": 5,
  "private.set": 4,
  "party.open": 4,
  "party.join": 4,
  "party.invite": 5,
  "party.bring": 10,
};
/** Bytes of a request that cost as much as one unit. */
const BYTES_A_UNIT = 256;

/** A player may do so much in a second, and in a burst, for each frame a second that it may send. */
const PER_FRAME = 2;
const BURST_SECONDS = 4;
/** An address may do as much as so many of its players at full pace together. */
const PLAYERS_AN_ADDRESS = 32;

/** Room codes that nobody has: so many may be tried at once, and so many more a second. */
const CODES = { player: { atOnce: 8, perSecond: 0.2 }, address: { atOnce: 40, perSecond: 1 } } as const;

/** Passwords that are tried or set: each is worked out at length. */
const PASSWORDS = { player: { atOnce: 5, perSecond: 0.1 }, address: { atOnce: 20, perSecond: 0.5 } } as const;

/** Each is written down, and somebody is to read it. */
const REPORTS = { atOnce: 5, perSecond: 1 / 60 } as const;

/** Players that are remembered before those who have not asked for anything lately are looked through. */
const KNOWN_MAX = 2_000;
/** After so long without a request every bucket is full again. */
const FORGET_MS = 60_000;

/** What one player may still do. It is the player's and not the connection's: coming again brings nothing back. */
export class Allowance {
  readonly work: RateLimit;
  readonly codes: RateLimit;
  readonly passwords: RateLimit;
  /** Made with the first relayed message, and the first word in a lobby. */
  relay: RateLimit | undefined;
  chat: RateLimit | undefined;
  messages: RateLimit | undefined;
  /** Signals to members of the room it is in. */
  readonly signals: { room: string; readonly to: Map<PlayerId, RateLimit> } = { room: "", to: new Map() };
  readonly reports: RateLimit;
  lastMs: number;

  constructor(perSecond: number, nowMs: number) {
    this.work = new RateLimit(perSecond, perSecond * BURST_SECONDS, nowMs);
    this.codes = new RateLimit(CODES.player.perSecond, CODES.player.atOnce, nowMs);
    this.passwords = new RateLimit(PASSWORDS.player.perSecond, PASSWORDS.player.atOnce, nowMs);
    this.reports = new RateLimit(REPORTS.perSecond, REPORTS.atOnce, nowMs);
    this.lastMs = nowMs;
  }
}

/** What an address may still do, whichever players come from it. */
class AddressAllowance {
  readonly work: RateLimit;
  readonly codes: RateLimit;
  readonly passwords: RateLimit;

  constructor(perSecond: number, nowMs: number) {
    this.work = new RateLimit(perSecond, perSecond * BURST_SECONDS, nowMs);
    this.codes = new RateLimit(CODES.address.perSecond, CODES.address.atOnce, nowMs);
    this.passwords = new RateLimit(PASSWORDS.address.perSecond, PASSWORDS.address.atOnce, nowMs);
  }
}

/** Holds requests within what they cost, by player and by address, over reconnections. */
export class Allowances {
  readonly #perSecond: number;
  readonly #players = new Map<PlayerId, Allowance>();
  readonly #addresses = new WeakMap<AddressQuota, AddressAllowance>();
  #forgetAt = KNOWN_MAX;

  constructor(framesPerSecond: number) {
    this.#perSecond = framesPerSecond * PER_FRAME;
  }

  of(player: PlayerId, nowMs: number): Allowance {
    let known = this.#players.get(player);
    if (known === undefined) {
      if (this.#players.size >= this.#forgetAt) this.#forget(nowMs);
      known = new Allowance(this.#perSecond, nowMs);
      this.#players.set(player, known);
    }
    known.lastMs = nowMs;
    return known;
  }

  /** Takes the cost of a request, or says that it is too much now. */
  refusal(
    player: PlayerId,
    { ask, bytes, quota }: { readonly ask: PlayerAsk; readonly bytes: number; readonly quota: AddressQuota },
    nowMs: number,
  ): Problem | undefined {
    const cost = (COST[ask] ?? 1) + Math.floor(bytes / BYTES_A_UNIT);
    if (!this.of(player, nowMs).work.take(nowMs, cost)) {
      return problem(
        "too-costly",
        `${ask} and what came before it cost more than a player may in so short a time; wait a moment.`,
      );
    }
    if (this.#at(quota, nowMs).work.take(nowMs, cost)) return undefined;
    return problem("too-costly", "The players of this address ask for more than they may together; wait a moment.");
  }

  /** Why no password may be said now. */
  passwordRefusal(player: PlayerId, quota: AddressQuota, nowMs: number): Problem | undefined {
    const mayPlayer = this.of(player, nowMs).passwords.take(nowMs);
    if (mayPlayer && this.#at(quota, nowMs).passwords.take(nowMs)) return undefined;
    return problem("passwords-too-fast", "Too many passwords of rooms were said lately; wait some seconds.");
  }

  /** Why nobody may be reported now. */
  reportRefusal(player: PlayerId, nowMs: number): Problem | undefined {
    if (this.of(player, nowMs).reports.take(nowMs)) return undefined;
    return problem("reports-too-fast", "You have reported several players lately; wait a minute.");
  }

  /** Notes a room code that nobody has. */
  missedCode(player: PlayerId, quota: AddressQuota, nowMs: number): void {
    this.of(player, nowMs).codes.take(nowMs);
    this.#at(quota, nowMs).codes.take(nowMs);
  }

  /** Why no room code may be tried now: too many were wrong. */
  codeRefusal(player: PlayerId, quota: AddressQuota, nowMs: number): Problem | undefined {
    if (this.of(player, nowMs).codes.has(nowMs) && this.#at(quota, nowMs).codes.has(nowMs)) return undefined;
    return problem("codes-too-fast", "Too many room codes were tried that no room has; wait a few seconds.");
  }

  #at(quota: AddressQuota, nowMs: number): AddressAllowance {
    let known = this.#addresses.get(quota);
    if (known === undefined) {
      known = new AddressAllowance(this.#perSecond * PLAYERS_AN_ADDRESS, nowMs);
      this.#addresses.set(quota, known);
    }
    return known;
  }

  #forget(nowMs: number): void {
    for (const [player, { lastMs }] of this.#players) if (nowMs - lastMs > FORGET_MS) this.#players.delete(player);
    this.#forgetAt = Math.max(KNOWN_MAX, 2 * this.#players.size);
  }
}
