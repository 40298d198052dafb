import { createHash } from "node:crypto";
import type { HarborRules } from "@yellow-harbor/core";
import { act, operatorAct } from "./acts.ts";
import { Fault } from "./fault.ts";
import { otherRules } from "./rules.ts";
import type { Step } from "./script.ts";
import { Shadow } from "./shadow.ts";
import { SimDisk } from "./sim-disk.ts";
import { SimMachine, type Tell } from "./sim-machine.ts";
import { type Link, SimPlayer } from "./sim-player.ts";
import { search } from "./sim-search.ts";
import { entropyOf, SimService } from "./sim-service.ts";
import { SimTime } from "./sim-time.ts";
import { travelOn } from "./sim-travel.ts";

const NAMES = ["Ansel", "Brisa", "Corin", "Dovie", "Edda", "Fenn", "Gerrit", "Hild", "Ivo", "Jorun"] as const;
/** So many turns of the network and the disk come to rest in any case. */
const TURNS_MAX = 500;

export interface WorldCounts {
  kills: number;
  failedWrites: number;
  takenAgain: number;
  clockSets: number;
  cuts: number;
}

/** The service with a world around it that can be stopped between any two steps. Nothing in it is left to chance. */
export class World {
  readonly time = new SimTime();
  readonly shadow: Shadow;
  readonly disk: SimDisk;
  readonly machine: SimMachine;
  readonly players = NAMES.map((name) => new SimPlayer(name));
  readonly counts: WorldCounts = { kills: 0, failedWrites: 0, clockSets: 0, cuts: 0, takenAgain: 0 };
  #rules: HarborRules;
  readonly #chance;
  readonly #compareEvery: number;
  readonly #digest = createHash("sha256");
  #service: SimService | undefined;
  /** Connections that the service still holds to be open. */
  readonly #open = new Set<Link>();
  #links = 0;
  #quiets = 0;
  #fault: Fault | undefined;

  /** Each `compareEvery` quiet moments the whole state is held against the disk. */
  constructor(rules: HarborRules, seed: number, compareEvery: number) {
    this.#rules = rules;
    this.#compareEvery = compareEvery;
    this.#chance = entropyOf(seed);
    this.shadow = new Shadow(rules);
    this.disk = new SimDisk((row) => {
      this.#digest.update(`${row.seq} ${row.atMs} ${row.kind} ${row.body}\n`);
      this.shadow.take(row);
    });
    this.machine = new SimMachine(this.shadow);
  }

  /** Of all that was kept and all that was heard, in order. */
  digest(): string {
    return this.#digest.copy().digest("hex").slice(0, 16);
  }

  /** Carries out a step; throws when something comes of it that must never be. */
  async take(step: Step): Promise<void> {
    await this.#carryOut(step);
    await this.time.settle();
    if (this.#fault) throw this.#fault;
    this.shadow.check();
  }

  /** After the script: everything works again, and has to come to rest. */
  async comeToRest(): Promise<void> {
    this.disk.snapshotsWork = true;
    for (let round = 0; round < 12; round++) {
      await this.take({ do: "start" });
      for (const [n, player] of this.players.entries()) {
        if (player.link === undefined && player.id !== undefined) await this.take({ do: "connect", who: n });
      }
      await this.take({ do: "flow" });
      for (let which = 0; which < 12; which++) await this.take({ do: "onward", which });
      await this.take({ do: "tick", ms: 20_000 });
    }
    await this.take({ do: "flow" });
    this.#checkRest();
  }

  async #carryOut(step: Step): Promise<void> {
    const player = "who" in step ? (this.players[step.who % this.players.length] as SimPlayer) : undefined;
    switch (step.do) {
      case "connect":
        return player && this.#connect(player);
      case "act":
        return player?.link && act(player, this.players, this.shadow, step);
      case "search":
        return player?.link && search(player, this.players, this.shadow, step);
      case "up":
        return player && this.#up(player.link, step.frames);
      case "down":
        return player && this.#down(player, step.frames);
      case "cut":
        return player && this.#cut(player, step.noticed);
      case "notice":
        return this.#notice();
      case "commit":
        if (step.how !== "kept" && this.disk.isWriting) this.counts.failedWrites += 1;
        return this.disk.end(step.how);
      case "snapshots":
        this.disk.snapshotsWork = step.work;
        return;
      case "tick":
        await this.time.pass(step.ms);
        return this.#service?.checkClock();
      case "set-clock":
        this.counts.clockSets += 1;
        return this.time.set(step.byMs);
      case "kill":
        return this.#kill(step.inFlight);
      case "start":
        return this.#start();
      case "machine":
        return this.machine.move(step.which, step.what, step.n, this.players, this.#tell);
      case "operator":
        return this.#tell(operatorAct(this.players, this.shadow, step));
      case "rules":
        this.#rules = otherRules(step.which);
        return this.#service?.changeRules();
      case "flow":
        return this.#flow();
      case "muster":
        return this.#muster(step.which);
      case "onward":
        this.machine.onward(step.which, this.players, this.#tell);
        travelOn(this.shadow.state, this.players, step.which);
        return this.#flow();
    }
  }

  readonly #tell: Tell = (command, answer) => {
    if (this.#service?.isAlive && !this.#service.failed) this.#service.tell(command, answer);
  };

  async #start(): Promise<void> {
    if (this.#service?.failed) {
      this.counts.takenAgain += 1;
      return this.#service.takeAgain();
    }
    if (this.#service) return;
    const { disk, time, shadow } = this;
    this.#service = await SimService.start({
      rules: () => this.#rules,
      disk,
      time,
      shadow,
      chance: this.#chance,
      carryOut: (effect) => {
        try {
          this.machine.carryOut(effect);
        } catch (error) {
          this.#complain(error as Fault);
        }
      },
      complain: (fault) => this.#complain(fault),
    });
  }

  #complain(fault: Fault): void {
    this.#fault ??= fault;
  }

  #kill(inFlight: "kept" | "lost"): void {
    if (this.#service === undefined) return;
    this.counts.kills += 1;
    this.#service.kill();
    this.#service = undefined;
    this.disk.abandon(inFlight);
    this.machine.forgetService();
    this.#open.clear();
    for (const player of this.players) player.disconnect();
  }

  #connect(player: SimPlayer): void {
    if (player.link || this.#service === undefined) return;
    const link: Link = { number: ++this.#links, up: [], down: [], player: undefined };
    player.link = link;
    this.#open.add(link);
    this.#service.hello(link, player.id, player.name);
  }

  /** Frames of a player arrive at the service. */
  #up(link: Link | undefined, frames: number): void {
    // Before its welcome a connection's requests would be refused; clients wait for it.
    if (link?.player === undefined || !this.#service) return;
    for (const { id, command } of link.up.splice(0, frames)) this.#service.request(link, id, command);
  }

  /** Frames arrive at a player. */
  #down(player: SimPlayer, frames: number): void {
    const { link } = player;
    for (let n = 0; n < frames && link && player.link === link; n++) {
      const text = link.down.shift();
      if (text === undefined) return;
      this.#digest.update(`${player.name} ${text}\n`);
      player.hear(text, this.shadow);
    }
    if (link && player.link !== link) this.#lose(link);
  }

  #cut(player: SimPlayer, noticed: boolean): void {
    const { link } = player;
    if (link === undefined) return;
    this.counts.cuts += 1;
    player.disconnect();
    if (noticed) this.#lose(link);
  }

  /** The service notices one connection that nobody is at any more. */
  #notice(): void {
    const held = new Set(this.players.map(({ link }) => link));
    const gone = [...this.#open].find((link) => !held.has(link));
    if (gone) this.#lose(gone);
  }

  #lose(link: Link): void {
    if (this.#open.delete(link) && this.#service && !this.#service.failed) this.#service.lose(link);
  }

  async #flow(): Promise<void> {
    for (let turn = 0; ; turn++) {
      if (turn > TURNS_MAX) throw new Fault("restless", `it has not come to rest after ${TURNS_MAX} turns`);
      await this.time.settle();
      if (this.#fault) throw this.#fault;
      const links = this.players.flatMap(({ link }) => link ?? []);
      const isBusy =
        this.disk.isWriting ||
        (this.#service && this.machine.hasReports) ||
        links.some(({ up, down, player }) => down.length > 0 || (up.length > 0 && player !== undefined));
      if (!isBusy) break;
      this.disk.end("kept");
      await this.time.settle();
      this.machine.report(this.#tell);
      for (const link of links) this.#up(link, Number.POSITIVE_INFINITY);
      for (const player of this.players) this.#down(player, Number.POSITIVE_INFINITY);
    }
    this.#checkQuiet();
  }

  async #muster(which: number): Promise<void> {
    const rooms = [...this.shadow.state.rooms.byId.values()];
    const room = rooms[which % Math.max(1, rooms.length)];
    if (room === undefined) return;
    const members = this.players.filter(({ id, link }) => link && id !== undefined && room.members.has(id));
    const host = members.find(({ id }) => id === room.host);
    host?.ask({ do: "room.pick-level", player: host.id ?? "", args: { level: "brine-gate" } });
    await this.#flow();
    for (const one of members) one.ask({ do: "room.ready", player: one.id ?? "", args: { ready: true } });
    await this.#flow();
    host?.ask({ do: "room.start", player: host.id ?? "", args: {} });
    await this.#flow();
  }

  /** Nothing is under way: what everybody holds and what is durable is one and the same. */
  #checkQuiet(): void {
    if (!this.#service || this.#service.failed) return;
    this.#quiets += 1;
    if (!this.#service.isQuiet) throw new Fault("not-kept", "nothing is under way, and yet not all is durable");
    if (this.#quiets % this.#compareEvery === 0) this.#service.checkEqualToDisk();
    for (const player of this.players) {
      player.checkPromises(this.shadow);
      if (player.link?.player !== undefined) this.#checkUpToDate(player);
    }
  }

  #checkUpToDate({ name, id, state, ticket }: SimPlayer): void {
    const { players, rooms, lobbies, queues } = this.shadow.state;
    const searching = queues.tickets.get(queues.byPlayer.get(id ?? "") ?? "");
    const isAsked = ticket?.confirm?.match;
    if (ticket?.id !== searching?.id || isAsked !== searching?.asked) {
      const [knows, is] = [`${ticket?.id} ${isAsked}`, `${searching?.id} ${searching?.asked}`];
      throw new Fault("stale-ticket", `${name} knows of ticket and match ${knows}; it is ${is}`);
    }
    const room = players.byId.get(id ?? "")?.room;
    const [held, durable] =
      room === undefined || room === null
        ? [state.lobby?.revision, lobbies.byId.get(players.byId.get(id ?? "")?.lobby ?? "")?.revision]
        : [state.room?.id === room ? state.room.revision : undefined, rooms.byId.get(room)?.revision];
    if (held !== durable) {
      throw new Fault("stale-state", `${name} holds revision ${held} of ${room ?? "the lobby"}; it is at ${durable}`);
    }
  }

  /** Long after everything works again nothing may still be under way. */
  #checkRest(): void {
    const { players, rooms, pools, queues } = this.shadow.state;
    const asking = [...queues.matches.values()].find((match) => match.asking || match.forming);
    if (asking) throw new Fault("stuck", `match ${asking.id} is still neither played nor undone`);
    const stuck = [...rooms.byId.values()].filter(
      ({ stage: { phase } }) => phase === "counting" || phase === "travelling",
    );
    const away = [...players.byId.values()].filter(({ presence }) => presence !== "here");
    const [room] = stuck;
    if (room) throw new Fault("stuck", `room ${room.id} is still ${room.stage.phase}`);
    if (away[0]) throw new Fault("stuck", `player ${away[0].id} is still ${away[0].presence}`);
    const ghost = [...pools.instances.values()].find(
      ({ id, gone, state }) =>
        !gone && state !== "launched" && !this.machine.alive.some(({ instance }) => instance === id),
    );
    if (ghost) throw new Fault("ghost", `instance ${ghost.id} is ${ghost.state}, and no process of it runs`);
    const orphan = this.machine.alive.find(({ instance }) => pools.instances.get(instance)?.gone ?? true);
    if (orphan) throw new Fault("orphan", `process ${orphan.pid} of ${orphan.instance} runs, and nobody knows of it`);
  }
}
