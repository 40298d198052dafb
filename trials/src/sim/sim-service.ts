import {
  ApartMatcher,
  type Command,
  type HarborRules,
  type InstanceEffect,
  type LookForMatches,
  type OwedPass,
  type ProbeWorld,
  type Push,
  type Random,
  type ReplyTo,
  randomFrom,
} from "@yellow-harbor/core";
import { type BoardingPass, BuildSpec, type Update } from "@yellow-harbor/protocol";
import { type HarborRuntime, loadRuntime, type Settled } from "@yellow-harbor/service";
import { Fault } from "./fault.ts";
import type { Shadow } from "./shadow.ts";
import type { SimDisk } from "./sim-disk.ts";
import type { Asking, Link, Said } from "./sim-player.ts";
import type { SimTime } from "./sim-time.ts";

const { HarborRuntime: Runtime, recoverHarbor, harborClock, noMeter } = await loadRuntime();

/** Snapshots come often, so that most starts read one. */
const SNAPSHOTS = { every: 200, keepEvents: 1_000_000, keepBytes: 1_000_000_000 };
/** By so much a deadline may be late while the harbor's clock comes near a wall clock that was set forward. */
const LATE_MOST_MS = 500;

/** Looks take so long at the most, and one of so many is never answered. */
const LOOK_MOST_MS = 40;
const LOST_LOOKS = 50;

export interface ServiceParts {
  /** Those that hold now. */
  readonly rules: () => HarborRules;
  readonly disk: SimDisk;
  readonly time: SimTime;
  readonly shadow: Shadow;
  /** Where the entropy of stamps comes from. */
  readonly chance: Random;
  readonly carryOut: (effect: InstanceEffect | ProbeWorld) => void;
  /** A fault on a path whose errors are caught and logged. */
  readonly complain: (fault: Fault) => void;
}

type Greeting = Extract<Command, { do: "player.connect" | "player.resume" }>;

/** One life of the service: the real runtime, with a gateway of the plainest kind and a world that can be stopped. */
export class SimService {
  readonly #parts: ServiceParts;
  readonly #runtime: HarborRuntime;
  readonly #now: () => number;
  readonly #byPlayer = new Map<string, Link>();
  readonly #matcher = new ApartMatcher();
  isAlive = true;

  private constructor(parts: ServiceParts, runtime: HarborRuntime, now: () => number) {
    this.#parts = parts;
    this.#runtime = runtime;
    this.#now = now;
  }

  /** Takes the rules that hold now. */
  changeRules(): void {
    // What is refused, as while the log is away, is taken with the next start.
    void this.#runtime.changeRules(this.#parts.rules(), ["levels"]).catch(() => undefined);
  }

  /** Starts from what the disk holds; throws when that is not what was durable. */
  static async start(parts: ServiceParts): Promise<SimService> {
    const { rules, disk, time, shadow, chance, complain } = parts;
    const life: { service: SimService | undefined } = { service: undefined };
    const isAlive = () => life.service?.isAlive ?? true;
    const found = disk.open(isAlive);
    const harbor = await recoverHarbor(rules(), found);
    shadow.checkEqual(harbor, "recovered-otherwise", shadow.seenAtMs);
    const now = harborClock(found.lastAtMs, time);
    const word = () => chance.below(0x1_0000_0000);
    const runtime = new Runtime({
      harbor,
      eventLog: found.eventLog,
      lastSeq: found.lastSeq,
      snapshots: { ...SNAPSHOTS, snapshots: disk.snapshotsFor(isAlive), history: disk.history },
      scheduler: time.scheduler(isAlive),
      tokens: { signPass: async (owed) => unsigned(owed) },
      stamp: () => ({ at: now(), entropy: [word(), word(), word(), word()] }),
      log: complaints(complain),
      meter: noMeter,
    });
    const service = new SimService(parts, runtime, now);
    life.service = service;
    runtime.connect({
      push: (push) => service.#push(push),
      pass: (player, { pass }) => service.#say(player, { say: "pass", pass: JSON.parse(pass) as OwedPass }),
      isFollowed: () => false,
      areFriendsFollowed: () => false,
      friends: () => undefined,
      listing: () => undefined,
      happened: () => undefined,
      effect: (effect) => {
        if (effect.effect === "end-connection") service.#close(effect.player, effect.code);
        else if (effect.effect === "look-for-matches") service.#look(effect);
        // Its machines are those of the configuration.
        else if (!("group" in effect)) parts.carryOut(effect);
      },
      failed: () => service.#closeAll(),
      flush: () => undefined,
    });
    service.#begin(found.lastSeq);
    return service;
  }

  /** In a thread of its own that takes its time. Some answers never come. */
  #look(effect: LookForMatches): void {
    const { time, chance } = this.#parts;
    if (chance.below(LOST_LOOKS) === 0) return;
    const { queue, look } = effect;
    const { matches, hasMore } = this.#matcher.look(effect);
    const answer = () => this.tell({ do: "queue.propose", queue, look, matches, hasMore });
    time.scheduler(() => this.isAlive).later(answer, 1 + chance.below(LOOK_MOST_MS));
  }

  /** After its log was away: the same service goes on from what the disk holds. */
  async takeAgain(): Promise<void> {
    const { rules, disk, shadow } = this.#parts;
    shadow.seenAtMs = this.#now();
    const found = disk.open(() => this.isAlive);
    const harbor = await recoverHarbor(rules(), found);
    shadow.checkEqual(harbor, "recovered-otherwise", shadow.seenAtMs);
    this.#runtime.takeAgain(harbor, found);
    this.#begin(found.lastSeq);
  }

  #begin(lastSeq: number): void {
    if (lastSeq === 0) this.tell({ do: "harbor.found" });
    this.tell({ do: "build.configure", line: "breakwater", spec: BuildSpec.parse({ command: "none" }) });
    if (lastSeq > 0) this.tell({ do: "harbor.recover" });
    this.#runtime.start();
  }

  get failed(): boolean {
    return this.#runtime.failure !== undefined;
  }

  /** Whether all that was decided is durable and said. */
  get isQuiet(): boolean {
    const { waiting } = this.#runtime.journalStatus;
    return waiting === 0;
  }

  kill(): void {
    this.isAlive = false;
    this.#parts.shadow.seenAtMs = this.#now();
  }

  /** Throws when something that fell due has not been done. Only once the world has settled. */
  checkClock(): void {
    const next = this.#runtime.decided.nextDeadlineAt();
    const now = this.#now();
    if (!this.failed && next !== undefined && next < now - LATE_MOST_MS) {
      throw new Fault("overdue", `something was due ${now - next} ms ago`);
    }
  }

  checkEqualToDisk(): void {
    this.#parts.shadow.checkEqual(this.#runtime.decided, "disk-otherwise", this.#now());
  }

  tell<C extends Command>(command: C, answer: (reply: ReplyTo<C["do"]> | undefined) => void = () => undefined): void {
    this.#submit(command, (settled) => {
      if (!("refused" in settled)) return answer(settled.reply);
      // Whoever is told that the journal has failed tries again later.
      if (settled.refused.code !== "journal-unavailable") answer(undefined);
    });
  }

  /** A hello: somebody new, or one who comes back. */
  hello(link: Link, player: string | undefined, name: string): void {
    const connection = link.number;
    const command: Greeting =
      player === undefined
        ? { do: "player.connect", name, build: "game-1", lobby: undefined, connection }
        : { do: "player.resume", player, connection };
    this.#submit(command, (settled) => {
      if ("refused" in settled) return this.#hand(link, { say: "refused-hello", problem: settled.refused });
      const { player: who, ...state } = settled.reply;
      const former = this.#byPlayer.get(who.id);
      link.player = who.id;
      this.#byPlayer.set(who.id, link);
      this.#hand(link, { say: "state", player: who.id, ...state } as Said);
      if (former && former !== link) this.#hand(former, { say: "close", code: "taken-over" });
    });
  }

  request(link: Link, id: number, command: Asking): void {
    // As the gateway does: who is here by another connection, or by none, is not spoken for by this one.
    const known = this.#runtime.decided.state.players.byId.get(link.player ?? "");
    if (known !== undefined && known.connection !== link.number)
      return this.#hand(link, { say: "close", code: "taken-over" });
    this.#submit(command, (settled) => {
      this.#hand(link, {
        say: "reply",
        id,
        ...("refused" in settled ? { problem: settled.refused } : { reply: settled.reply }),
      });
      if (command.do === "player.leave") this.#hand(link, { say: "close", code: "kicked" });
    });
  }

  /** A connection is gone. */
  lose(link: Link): void {
    const { player } = link;
    if (player === undefined) return;
    if (this.#byPlayer.get(player) === link) this.#byPlayer.delete(player);
    this.tell({ do: "player.lose", player, connection: link.number });
  }

  #submit<C extends Command>(command: C, done: (settled: Settled<ReplyTo<C["do"]>>) => void): void {
    this.#runtime.submit(command, (settled) => {
      try {
        if (this.isAlive) done(settled);
      } catch (error) {
        if (error instanceof Fault) this.#parts.complain(error);
        throw error;
      }
    });
  }

  #push(push: Exclude<Push, { scope: "pass" }>): void {
    if (push.scope === "you")
      return this.#say(push.to, {
        say: "update",
        update: { frame: "update", scope: "you", revision: push.revision, event: push.update },
      });
    const { to, id, revision, patch } = push;
    const update: Update =
      push.scope === "room"
        ? { frame: "update", scope: "room", id, revision, event: push.update, patch }
        : { frame: "update", scope: "lobby", id, revision, event: push.update, patch };
    for (const player of to) this.#say(player, { say: "update", update });
  }

  #close(player: string, code: string): void {
    const link = this.#byPlayer.get(player);
    this.#say(player, { say: "close", code });
    if (link) this.lose(link);
  }

  #closeAll(): void {
    const links = [...this.#byPlayer.values()];
    this.#byPlayer.clear();
    for (const link of links) this.#hand(link, { say: "close", code: "journal-unavailable" });
  }

  #say(player: string, said: Said): void {
    const link = this.#byPlayer.get(player);
    if (link) this.#hand(link, said);
  }

  #hand(link: Link, said: Said): void {
    if (this.isAlive) link.down.push(JSON.stringify(said));
  }
}

/** Nobody forges passes here: the text of one is what is owed, as it is. */
const unsigned = (owed: OwedPass): BoardingPass => {
  const { to: _, player: __, ...shown } = owed;
  return { ...shown, pass: JSON.stringify(owed) };
};

/** A log that takes an error for a fault; that the journal has failed is part of the play. */
const complaints = (complain: (fault: Fault) => void) => {
  const error = (about: { err?: unknown }, text = "") => {
    if (about.err instanceof Fault) return complain(about.err);
    if (/a snapshot could not be written/.test(text)) return;
    complain(new Fault("error-logged", `${text}: ${(about.err as Error)?.stack ?? JSON.stringify(about)}`));
  };
  const fatal = ({ err }: { err?: unknown }) => {
    for (const fault of [err, (err as Error | undefined)?.cause]) if (fault instanceof Fault) complain(fault);
  };
  return { error, fatal } as never;
};

export const entropyOf = (seed: number): Random => randomFrom([seed, 0x1357_9bdf, 0x2468_ace0, 7]);
