import {
  applyPrivate,
  applyUpdate,
  mergePatch,
  NOTHING_PRIVATE,
  type PlayerState,
  type PrivateHeld,
  privateIn,
} from "@yellow-harbor/client";
import type { BuildSpec, HarborView, PartyView, Problem, Update, Welcome } from "@yellow-harbor/protocol";
import { type AppliedEvent, Harbor, type Outcome } from "../harbor/harbor.ts";
import type { Command } from "../model/command.ts";
import type { Destination } from "../model/destination.ts";
import type { HarborEvent } from "../model/event.ts";
import type { ReplyTo } from "../model/replies.ts";
import type { Room } from "../model/rooms/state.ts";
import type { HarborRules } from "../model/rules.ts";
import { testRules, testSpec } from "./rules.ts";

interface OfPhases {
  readonly startsAtMs: number | null;
  readonly gathersAtMs: number | null;
  readonly run: string | null;
  readonly destination: Destination | null;
}

export type FlatRoom = Room & OfPhases & Pick<Room["stage"], "phase">;

const NO_PHASE: OfPhases = { startsAtMs: null, gathersAtMs: null, run: null, destination: null };

type StatePush = Extract<AppliedEvent["pushes"][number], { scope: "room" | "lobby" }>;

/** As the gateway frames it. */
function updatesOf(push: StatePush): Exclude<Update, { scope: "you" }> {
  const { id, revision, patch } = push;
  return push.scope === "room"
    ? { frame: "update", scope: "room", id, revision, event: push.update, patch }
    : { frame: "update", scope: "lobby", id, revision, event: push.update, patch };
}

/**
 * A harbor with a clock and entropy of its own, and with clients that hold views as real ones do: whole at first,
 * patched by updates afterwards.
 */
export class TestHarbor {
  readonly harbor: Harbor;
  readonly journal: { event: HarborEvent; at: number }[] = [];
  readonly views = new Map<string, PlayerState>();
  /** What each is told of its party. */
  readonly parties = new Map<string, PartyView | undefined>();
  /** What each has been told of the private entries of its room. */
  readonly privateEntries = new Map<string, PrivateHeld>();
  /** What somebody who watches everything holds. */
  watched: HarborView;
  /** All that happened, with what was said of it. */
  readonly appliedEvents: AppliedEvent[] = [];
  /** Hears of each event while the state is as it was right after it. */
  onEvent: ((applied: AppliedEvent) => void) | undefined;
  now = 1_000_000;
  #stamps = 0;

  constructor(rules: HarborRules = testRules(), spec: BuildSpec = testSpec()) {
    this.harbor = new Harbor(rules);
    this.watched = this.harbor.view();
    this.run({ do: "harbor.found" });
    const lines = new Set([...rules.pools.values()].map(({ build }) => build));
    for (const line of lines) this.run({ do: "build.configure", line, spec });
  }

  run<C extends Command>(command: C): Outcome<ReplyTo<C["do"]>> {
    return this.harbor.execute(command, this.#stamp(), this.#hear);
  }

  /** Runs a command that must be accepted; returns its reply. */
  ok<C extends Command>(command: C): ReplyTo<C["do"]> {
    const { refused, reply } = this.run(command);
    if (refused) throw new Error(`${command.do} was refused: ${refused.code} ${refused.detail}`);
    return reply;
  }

  /** Runs a command that must be refused; returns why. */
  refusal(command: Command): Problem {
    const { refused } = this.run(command);
    if (refused === undefined) throw new Error(`${command.do} was not refused`);
    return refused;
  }

  connect(name: string): string {
    const reply = this.ok({ do: "player.connect", name, build: "game-1", lobby: undefined, connection: 1 });
    this.#hold(reply.player.id, reply);
    return reply.player.id;
  }

  /** Comes as an account, as a new player or the one that it is; undefined when that is refused. */
  connectAs(account: string): string | undefined {
    const identity = { account, roles: [], vouched: {} };
    const name = `Of ${account}`;
    const known = this.harbor.state.players.byAccount.get(account);
    // As with a resume: who was away holds nothing until its welcome, and is sent nothing before it.
    if (known !== undefined && this.harbor.state.players.byId.get(known)?.presence === "away") this.views.delete(known);
    const outcome = this.run({
      do: "player.connect",
      name,
      build: "game-1",
      lobby: undefined,
      connection: 1,
      identity,
    });
    const { reply } = outcome;
    if (outcome.refused || reply === undefined) return undefined;
    this.views.delete(reply.player.id);
    this.#hold(reply.player.id, reply);
    return reply.player.id;
  }

  /** A request as the gateway makes it; the view in the reply is held, as the SDK does. */
  ask<C extends Command>(player: string, command: C): Outcome<ReplyTo<C["do"]>> {
    const outcome = this.run(command);
    const { reply }: Outcome = outcome;
    if (typeof reply === "object" && reply !== null) this.#hold(player, reply);
    return outcome;
  }

  resume(player: string): Outcome {
    // A new connection holds nothing until its welcome, and is sent nothing before it.
    this.views.delete(player);
    return this.ask(player, { do: "player.resume", player, connection: 1 });
  }

  /** Moves the clock and fires what falls due on the way, each at its time. */
  pass(ms: number): void {
    this.advances(ms);
  }

  /** The same, with what came of each. */
  advances(ms: number): Outcome[] {
    const outcomes: Outcome[] = [];
    const until = this.now + ms;
    for (
      let next = this.harbor.nextDeadlineAt();
      next !== undefined && next <= until;
      next = this.harbor.nextDeadlineAt()
    ) {
      this.now = Math.max(this.now, next);
      const outcome = this.harbor.advance(this.#stamp(), this.#hear);
      if (outcome) outcomes.push(outcome);
    }
    this.now = until;
    return outcomes;
  }

  /** Kinds of the events that came since the journal had `from` entries. */
  kinds(from = 0): string[] {
    return this.journal.slice(from).map(({ event }) => event.kind);
  }

  /** A room as it is now, what it has in its phase alone beside the rest. */
  room(id: string): FlatRoom {
    const room = this.harbor.state.rooms.byId.get(id);
    if (room === undefined) throw new Error(`no room ${id}`);
    return { ...NO_PHASE, ...room, ...room.stage };
  }

  instance(id: string) {
    const instance = this.harbor.state.pools.instances.get(id);
    if (instance === undefined) throw new Error(`no instance ${id}`);
    return instance;
  }

  #stamp = () => {
    this.#stamps += 1;
    return { at: this.now, entropy: [this.#stamps, 7, 11, 13] as const };
  };

  #hear = (applied: AppliedEvent, at: number) => {
    const { event, pushes } = applied;
    this.watched = mergePatch(this.watched, structuredClone(this.harbor.operatorPatch(applied)));
    this.journal.push({ event, at });
    this.appliedEvents.push(applied);
    this.onEvent?.(applied);
    for (const push of pushes) {
      if (push.scope === "pass") continue;
      if (push.scope === "you") {
        // StatePush with the lobby's complete view.
        const bringsState = push.update.kind === "out-of-room" || push.update.kind === "into-room";
        const isHere = this.harbor.state.players.byId.get(push.to)?.presence === "here";
        if (push.update.kind === "party-changed" && isHere) this.parties.set(push.to, push.update.party);
        if (push.update.kind === "out-of-party" && isHere) this.parties.delete(push.to);
        if (bringsState && isHere) this.#hold(push.to, push.update);
        if (isHere) this.#private(push.to, (held) => applyPrivate(held, push.update));
        continue;
      }
      for (const player of push.to) this.#update(player, push);
    }
  };

  #update(player: string, push: StatePush): void {
    const held = this.views.get(player);
    // Who is away has no connection: the update is lost to it, and it gets a whole state when it comes back.
    if (held === undefined || this.harbor.state.players.byId.get(player)?.presence !== "here") return;
    const patched = applyUpdate(held, updatesOf(push));
    if (patched.outcome === "gap")
      throw new Error(`player ${player} misses update before ${JSON.stringify(push.update)}`);
    if (patched.outcome === "applied") this.views.set(player, patched.state);
  }

  #hold(player: string, reply: object): void {
    const { room, lobby, party } = reply as Partial<PlayerState> & { readonly party?: PartyView };
    // A welcome says whether there is one.
    if (party || "resumed" in reply) this.parties.set(player, party);
    const { privateEntries = [] } = reply as Partial<Welcome>;
    if ("resumed" in reply) this.#private(player, () => ({ room: room?.id, entries: structuredClone(privateEntries) }));
    if (room || lobby) {
      this.views.set(player, structuredClone({ room, lobby }));
      this.#private(player, (held) => privateIn(held, room?.id));
    }
  }

  #private(player: string, change: (held: PrivateHeld) => PrivateHeld): void {
    this.privateEntries.set(player, change(this.privateEntries.get(player) ?? NOTHING_PRIVATE));
  }
}
