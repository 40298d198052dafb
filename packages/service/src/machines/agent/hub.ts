import { type InstanceEffect, recoveryEffects } from "@yellow-harbor/core";
import { ConfigName, type Problem, problem } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { type WebSocket, WebSocketServer } from "ws";
import { z } from "zod";
import type { Config } from "../../config/schema.ts";
import type { Arrival, Door, Opening } from "../../front-door/front-door.ts";
import type { Tokens } from "../../keys/tokens.ts";
import type { TwoPlaces } from "../../keys/two-places.ts";
import type { HarborRuntime } from "../../runtime/runtime.ts";
import type { AgentDriver } from "./agent-driver.ts";
import { AGENT_PATH, AGENT_SUBPROTOCOL, FromAgent, HOST_HEADER, NAME_HEADER, type ToAgent } from "./frames.ts";

const FRAME_MAX = 1_048_576;
const PING_EVERY_MS = 5_000;
const GOING_AWAY = 1001;
const REPLACED = 4409;
const BAD_FRAME = 4400;

/** A machine of a group shows a token of its own from its second connection on. */
const OWN_TOKEN_DAYS = 3_650;

/** An address or a name, as configurations have it. */
const MachineHost = z
  .string()
  .max(255)
  .regex(/^[A-Za-z0-9_.:%[\]-]+$/);

interface Welcome {
  readonly machine: ConfigName;
  /** What it shows from now on, when it has just joined its group. */
  readonly token?: string;
}

export interface AgentHubParts {
  readonly runtime: HarborRuntime;
  readonly tokens: Tokens;
  /** What speaks to the agent of a machine; undefined of one that is none of an agent. */
  readonly driverOf: (machine: ConfigName) => AgentDriver | undefined;
  /** Carries out what has to be done again on a machine that has come back. */
  readonly carryOut: (effect: InstanceEffect) => void;
  /** The configuration that holds now. */
  readonly config: () => Pick<Config, "machines" | "machineGroups">;
  /** Notices a token that two agents use in turns. */
  readonly twoPlaces: TwoPlaces;
  readonly log: Logger;
}

/**
 * The agents of other computers: each comes by itself, with a token for one machine. While it is there the machine's
 * driver speaks through it; when it is lost its instances are not: they poll to the service as before.
 */
export class AgentHub implements Door {
  readonly #parts: AgentHubParts;
  readonly holdsPlace = false;
  readonly sockets = new WebSocketServer({
    noServer: true,
    perMessageDeflate: false,
    maxPayload: FRAME_MAX,
    handleProtocols: (offered) => (offered.has(AGENT_SUBPROTOCOL) ? AGENT_SUBPROTOCOL : false),
  });
  readonly #pinging: NodeJS.Timeout;
  readonly #silent = new WeakSet<WebSocket>();

  constructor(parts: AgentHubParts) {
    this.#parts = parts;
    this.#pinging = setInterval(() => this.#ping(), PING_EVERY_MS);
    this.#pinging.unref();
  }

  opensAt(path: string): boolean {
    return path === AGENT_PATH;
  }

  async decide({ request, from }: Arrival): Promise<Opening> {
    const found = await this.#look(request, from);
    return "refused" in found ? found : { welcome: (agent) => this.#welcome(found, agent) };
  }

  /** Agents come again by themselves, and are told what to do as at a start. */
  endAll(): void {
    for (const socket of this.sockets.clients) socket.close(GOING_AWAY, "harbor-away");
  }

  close(): void {
    clearInterval(this.#pinging);
    for (const socket of this.sockets.clients) socket.close(GOING_AWAY, "shutting-down");
    this.sockets.close();
  }

  async #look(request: Arrival["request"], from: string): Promise<Welcome | { readonly refused: Problem }> {
    const { tokens, runtime, driverOf, twoPlaces, log } = this.#parts;
    const token = /^bearer (.+)$/i.exec(request.headers.authorization ?? "")?.[1] ?? "";
    const ofGroup = tokens.checkGroupToken(token);
    const groupFrom = this.#parts.config().machineGroups[ofGroup?.group ?? ""]?.tokensFrom;
    if (ofGroup !== undefined && (groupFrom === undefined || ofGroup.madeAtMs >= Date.parse(groupFrom)))
      return this.#enroll(ofGroup.group, request, from);
    const shown = tokens.checkAgentToken(token);
    const { tokensFrom } = this.#parts.config().machines[shown?.machine ?? ""] ?? {};
    if (shown === undefined || (tokensFrom !== undefined && shown.madeAtMs < Date.parse(tokensFrom))) {
      const detail =
        "The agent's token is missing, not one of this harbor's, or has ended; `yh token --machine NAME` prints a new one.";
      return { refused: problem("agent-token-invalid", detail) };
    }
    const { machine } = shown;
    twoPlaces.seen(machine, from);
    if (driverOf(machine)?.replaced() !== undefined)
      log.warn({ machine, from }, "a second agent comes with the token of a machine");
    const settled = await runtime.ask({ do: "machine.join", machine, from });
    if ("refused" in settled) return { refused: settled.refused };
    if (driverOf(machine) === undefined)
      return { refused: problem("machine-unknown", `There is no machine ${machine}.`) };
    return { machine };
  }

  /** Takes a machine into a group, under the name that it gives itself there. */
  async #enroll(
    group: ConfigName,
    { headers }: Arrival["request"],
    from: string,
  ): Promise<Welcome | { readonly refused: Problem }> {
    const { runtime, tokens } = this.#parts;
    const name = ConfigName.safeParse(`${group}-${String(headers[NAME_HEADER] ?? "")}`);
    const host = MachineHost.safeParse(headers[HOST_HEADER] ?? from);
    if (!name.success || !host.success) {
      const detail = `A machine joins group ${group} with a name of lower-case letters, digits and dashes (--name) and the host at which players reach it (--host).`;
      return { refused: problem("request-invalid", detail) };
    }
    const machine = name.data;
    const settled = await runtime.ask({ do: "machine.enroll", machine, group, host: host.data, from });
    if ("refused" in settled) return { refused: settled.refused };
    return { machine, token: await tokens.signAgentToken(machine, OWN_TOKEN_DAYS) };
  }

  #welcome({ machine, token }: Welcome, socket: WebSocket): void {
    const { runtime, driverOf, carryOut } = this.#parts;
    const driver = driverOf(machine);
    if (driver === undefined) return socket.close(GOING_AWAY);
    const send = (text: string) => socket.send(text);
    driver.replaced()?.(REPLACED);
    if (token !== undefined) send(JSON.stringify({ do: "enrolled", machine, token } satisfies ToAgent));
    driver.connect(send, (code) => socket.close(code, "another agent has come for this machine"));
    socket.on("pong", () => this.#silent.delete(socket));
    socket.on("message", (data) => {
      const frame = FromAgent.safeParse(parsed(String(data)));
      if (frame.success && frame.data.say === "usage") this.#measured(machine, frame.data);
      else if (frame.success && frame.data.say === "notice") this.#noticed(machine, frame.data);
      else if (frame.success) driver.take(frame.data);
      else socket.close(BAD_FRAME, "a frame that is none of an agent's");
    });
    socket.once("close", () => {
      // One that was replaced is not lost.
      if (!driver.disconnect(send)) return;
      runtime.submit({ do: "machine.lose", machine, why: "its agent's connection is gone" }, () => undefined);
    });
    // What was to be done there while it was away, or is not known to have been done, is done now.
    void runtime
      .query(({ state }) => recoveryEffects(state, machine))
      .then((effects) => {
        for (const effect of effects) if ("instance" in effect) carryOut(effect);
      });
  }

  /** What makes no difference to where instances go is not written down. */
  #measured(machine: ConfigName, { say: _, ...measure }: Extract<FromAgent, { say: "usage" }>): void {
    this.#parts.runtime.submit({ do: "machine.measure", machine, measure }, () => undefined);
  }

  /** It concerns itself alone. */
  #noticed(machine: ConfigName, { withinMs, why }: Extract<FromAgent, { say: "notice" }>): void {
    this.#parts.runtime.submit({ do: "machine.give-notice", machine, withinMs, why }, () => undefined);
  }

  #ping(): void {
    for (const socket of this.sockets.clients) {
      if (this.#silent.has(socket)) socket.terminate();
      this.#silent.add(socket);
      socket.ping();
    }
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
