import { createServer, type Server, type Socket } from "node:net";
import { createInterface } from "node:readline";
import { setTimeout as wait } from "node:timers/promises";
import type { InstanceId, Instruction, MatchAssignment } from "@yellow-harbor/protocol";
import type { SimulatedConfig } from "../config/simulated.ts";
import type { DriverEvents, LaunchRequest, MachineDriver, Output } from "./driver.ts";
import { noOutput } from "./output-file.ts";
import { chancesOf } from "./simulated-chance.ts";

export interface SimulatedDriverParts {
  readonly behaviour: SimulatedConfig;
  readonly serviceUrl: () => string;
  readonly events: DriverEvents;
}

/** One that seems to run. */
interface Seeming {
  readonly launch: LaunchRequest;
  readonly abort: AbortController;
  readonly server: Server;
  readonly sockets: Set<Socket>;
  match: MatchAssignment | undefined;
  readonly aboard: Set<string>;
}

/**
 * A stand-in for machines far away: its instances have no process. They come up after a while, or never; their address
 * answers a little later than they say; they take matches, let in who shows a pass, report a result, and fail, all by
 * the seed. They speak the instances' protocol like any other, and end with the service that runs them.
 */
export class SimulatedDriver implements MachineDriver {
  readonly #parts: SimulatedDriverParts;
  readonly #running = new Map<InstanceId, Seeming>();
  readonly #chances: ReturnType<typeof chancesOf>;

  constructor(parts: SimulatedDriverParts) {
    this.#parts = parts;
    this.#chances = chancesOf(parts.behaviour);
  }

  async start(launch: LaunchRequest): Promise<void> {
    const { instance } = launch;
    if (this.#running.has(instance)) return;
    const one: Seeming = {
      launch,
      abort: new AbortController(),
      server: createServer(),
      sockets: new Set(),
      match: undefined,
      aboard: new Set(),
    };
    this.#running.set(instance, one);
    this.#parts.events.spawned(instance, 0);
    const { bootMs, isNeverUp } = this.#chances.next();
    // What breaks off since it was ended is no fault.
    if (!isNeverUp) this.#live(one, bootMs).catch(() => this.#end(instance, { exitCode: 1, signal: null }));
  }

  async adopt(instance: InstanceId): Promise<void> {
    if (!this.#running.has(instance)) this.#parts.events.exited(instance, { exitCode: null, signal: null });
  }

  signal(instance: InstanceId, how: "terminate" | "kill"): void {
    this.#end(instance, { exitCode: null, signal: how === "kill" ? "SIGKILL" : "SIGTERM" });
  }

  output(): Output {
    return noOutput;
  }

  running(): readonly InstanceId[] {
    return [...this.#running.keys()];
  }

  close(): void {
    for (const one of this.#running.values()) letGo(one);
    this.#running.clear();
  }

  async #live(one: Seeming, bootMs: number): Promise<void> {
    const { launch, abort, server } = one;
    const { address } = launch;
    await wait(bootMs, undefined, { signal: abort.signal });
    await this.#say(one, "announce", { port: address.port });
    await wait(this.#parts.behaviour.lagMs, undefined, { signal: abort.signal });
    server.on("connection", (socket) => this.#welcome(one, socket));
    server.once("error", () => this.#end(launch.instance, { exitCode: 1, signal: null }));
    server.listen(address.port, address.host);
    for (let acknowledged = 0; !abort.signal.aborted; ) {
      const { instructions } = await this.#say<{ instructions: Instruction[] }>(one, "poll", {
        acknowledged,
        players: [...one.aboard],
        waitMs: 5_000,
      });
      for (const each of instructions.filter(({ number }) => number > acknowledged)) {
        acknowledged = each.number;
        await this.#obey(one, each);
      }
    }
  }

  async #obey(one: Seeming, instruction: Instruction): Promise<void> {
    switch (instruction.instruction) {
      case "match-assigned":
        one.match = instruction.match;
        return;
      case "match-started":
        return this.#play(one);
      case "release-player":
        one.aboard.delete(instruction.player);
        return;
      case "end-match":
        one.match = undefined;
        one.aboard.clear();
        return;
      case "stop":
        await this.#say(one, "goodbye", { reason: instruction.reason });
        return this.#end(one.launch.instance, { exitCode: 0, signal: null });
      default:
        return;
    }
  }

  /** A client shows its pass as a line. */
  #welcome(one: Seeming, socket: Socket): void {
    one.sockets.add(socket);
    socket.once("close", () => one.sockets.delete(socket)).on("error", () => socket.destroy());
    createInterface({ input: socket }).on("line", (pass) => {
      this.#say<{ player: { id: string; name: string } }>(one, "board", { pass })
        .then(({ player }) => {
          one.aboard.add(player.id);
          socket.write(`welcome ${player.name}\n`);
          if (one.match?.players.every(({ id }) => one.aboard.has(id))) this.#play(one);
        })
        .catch((error: Error) => socket.end(`${error.message}\n`));
    });
  }

  /** The match takes its time, and comes to a result, or to nothing. */
  #play(one: Seeming): void {
    const { match, abort } = one;
    if (match === undefined) return;
    const { isCrash, scores } = this.#chances.match(match.players.length);
    wait(this.#parts.behaviour.matchMs, undefined, { signal: abort.signal })
      .then(async () => {
        if (isCrash) return this.#end(one.launch.instance, { exitCode: null, signal: "SIGSEGV" });
        if (one.match?.run !== match.run) return;
        one.match = undefined;
        const standings = match.players.map(({ id }, n) => ({ player: id, score: scores[n] ?? 0 }));
        await this.#say(one, "report", { run: match.run, standings, note: "simulated" });
        one.aboard.clear();
      })
      // It was ended meanwhile, or somebody else has set the result.
      .catch(() => undefined);
  }

  async #say<T = object>({ launch, abort }: Seeming, step: string, body: object): Promise<T> {
    const response = await fetch(`${this.#parts.serviceUrl()}/v1/instance/${step}`, {
      method: "POST",
      headers: { authorization: `Bearer ${launch.key}`, "content-type": "application/json" },
      body: JSON.stringify(body),
      signal: abort.signal,
    });
    const answer = (await response.json()) as T & { readonly detail?: string };
    if (!response.ok) throw new Error(answer.detail ?? `the service answered ${response.status}`);
    return answer;
  }

  #end(instance: InstanceId, exit: { exitCode: number | null; signal: string | null }): void {
    const one = this.#running.get(instance);
    if (one === undefined) return;
    this.#running.delete(instance);
    letGo(one);
    this.#parts.events.exited(instance, exit);
  }
}

function letGo({ abort, server, sockets }: Seeming): void {
  abort.abort();
  for (const socket of sockets) socket.destroy();
  server.close();
}
