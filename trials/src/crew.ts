import { setTimeout as wait } from "node:timers/promises";
import { PlayerClient, ProblemError } from "@yellow-harbor/client";
import type { RoomView } from "@yellow-harbor/protocol";
import { goAboard, NotBoardedError, playRun } from "@yellow-harbor/tidewrights";
import type { Ledger } from "./ledger.ts";
import { TRIAL_BUILD } from "./service-under-trial.ts";

/** Room kinds of the crews, in turns: with an instance, in the host's world, relayed. */
const KINDS = ["crews", "hosted", "relayed"] as const;

export interface CrewCounts {
  resumed: number;
  runs: number;
  /** What should never have happened, in words. */
  readonly faults: string[];
}

/** Two players in one room who write all the time, show each other what they see, and play runs; whatever befalls the service. */
export class Crew {
  readonly players: readonly [PlayerClient, PlayerClient];
  readonly room: string;
  readonly #ledger: Ledger;
  readonly #counts: CrewCounts;
  #isOver = false;
  #work: Promise<unknown> = Promise.resolve();

  private constructor(
    players: readonly [PlayerClient, PlayerClient],
    room: string,
    ledger: Ledger,
    counts: CrewCounts,
  ) {
    [this.players, this.room, this.#ledger, this.#counts] = [players, room, ledger, counts];
  }

  static async gather(url: string, number: number, ledger: Ledger, counts: CrewCounts): Promise<Crew> {
    const connect = (name: string) =>
      PlayerClient.connect({ url, name, build: TRIAL_BUILD, reconnect: { firstMs: 50, maxMs: 400, attempts: 200 } });
    const [host, mate] = [await connect(`Host ${number}`), await connect(`Mate ${number}`)];
    const { room } = await host.openRoom({ capacity: 2, kind: KINDS[number % KINDS.length] ?? "crews" });
    await mate.joinRoom({ room: room.id });
    await host.pickLevel("brine-gate");
    const crew = new Crew([host, mate], room.id, ledger, counts);
    crew.#work = Promise.all([
      ...crew.players.map((player) => crew.#write(player)),
      ...crew.players.map((one) => crew.#play(one)),
    ]);
    return crew;
  }

  /** Resolves once both are connected and hold the same state of their room. */
  async untilBack(withinMs: number): Promise<void> {
    const until = Date.now() + withinMs;
    const isBack = () =>
      this.players.every(({ isConnected, state }) => {
        const members = Object.values(state.room?.members ?? {});
        return isConnected && members.length === 2 && members.every(({ presence }) => presence === "here");
      });
    while (!isBack()) {
      if (Date.now() > until) {
        throw new Error(
          `the crew of ${this.room} is not back after ${withinMs} ms: ${this.players.map(howItIs).join("; ")}`,
        );
      }
      await wait(20);
    }
  }

  async end(): Promise<void> {
    this.#isOver = true;
    for (const player of this.players) player.drop();
    await Promise.race([this.#work, wait(3_000)]);
  }

  async #write(player: PlayerClient): Promise<void> {
    const key = `count.${player.id.slice(2)}`;
    player.on("resumed", () => {
      this.#counts.resumed += 1;
    });
    player.on("change", ({ state }) => {
      for (const [name, entry] of Object.entries(state.room?.board ?? {})) {
        this.#ledger.show(`${this.room} ${name}`, Number(entry.box[0]));
      }
    });
    for (let n = 1; !this.#isOver; n++) {
      try {
        await player.board.set(key, n, { onLeave: "keep" });
        this.#ledger.acknowledge(`${this.room} ${key}`, n);
      } catch (error) {
        // Whether this one was taken nobody can say; the next one settles it.
        await this.#afterFault(error, player);
      }
    }
  }

  async #play(player: PlayerClient): Promise<void> {
    while (!this.#isOver) {
      try {
        await this.#playOnce(player);
      } catch (error) {
        await this.#afterFault(error, player);
      }
    }
  }

  async #playOnce(player: PlayerClient): Promise<void> {
    const { room: now } = player.state;
    if (now?.run !== undefined && now.kind !== "crews") return this.#pickUp(player, now);
    const { room } = await player.until(({ room: one }) => one?.phase === "gathering", 60_000);
    if (room?.members[player.id]?.ready !== true) await player.setReady(true);
    if (room?.host === player.id) {
      await player.until(({ room: one }) => one?.missing.length === 0 || one?.phase !== "gathering", 20_000);
      if (player.state.room?.phase === "gathering") await player.start();
    }
    const { room: travelling } = await player.until(({ room: one }) => one?.run !== undefined, 20_000);
    if (travelling !== undefined && travelling.kind !== "crews") {
      await playRun(player, Math.random);
      await player.until(({ room: one }) => one?.run !== travelling.run, 30_000);
      this.#counts.runs += 1;
      return;
    }
    const pass = await player.nextPass(40_000);
    if (pass.run !== travelling?.run) return;
    const aboard = await goAboard(pass);
    await aboard.play();
    aboard.disembark();
    await player.until(({ room: one }) => one?.run !== pass.run, 30_000);
    this.#counts.runs += 1;
  }

  /** A run that was cut short: whoever it waits for does what is left to do, so that the next one can come. */
  async #pickUp(player: PlayerClient, { run, phase, host, travel, members }: RoomView): Promise<void> {
    const isHost = host === player.id;
    if (travel?.by === "player-hosted") {
      // The world went down with the wire; its host cannot offer it, and nobody else can reach it.
      if (travel.step === "boarding" && !isHost) await player.travel.trouble("the world is gone");
      if (travel.step === "preparing" && isHost) await player.travel.decline("the world is gone");
    } else if (travel?.step === "boarding" && members[player.id]?.aboard !== true) await player.travel.arrive();
    else if (phase === "playing" && isHost)
      await player.ask("room.set-result", { standings: [{ player: player.id, score: 0 }] });
    await player.until(({ room }) => room?.run !== run, 1_000).catch(() => undefined);
  }

  /** A refusal for a lost race or a lost connection is nothing; anything else is a fault of the service. */
  async #afterFault(error: unknown, player: PlayerClient): Promise<void> {
    // A world of a host that has lost the service too cannot ask it about a pass.
    const isHostAway = error instanceof NotBoardedError && error.code === "service-unreachable";
    const isExpected =
      error instanceof ProblemError || isHostAway || /the game|ECONN|within|over/i.test((error as Error).message);
    if (!isExpected) this.#counts.faults.push(String((error as Error).stack));
    await wait(player.isConnected ? 100 : 50);
  }
}

/** What a player sees, for whoever looks for what went wrong. */
function howItIs({ name, isConnected, state: { room } }: PlayerClient): string {
  const members = Object.values(room?.members ?? {}).map((one) => `${one.name} ${one.presence}`);
  return `${name} ${isConnected ? "connected" : "not connected"}, sees ${members.join(", ") || "no room"}`;
}
