import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join, resolve } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { type BackOff, type Problem, pauseMs, problem } from "@yellow-harbor/protocol";
import { isLoopback } from "@yellow-harbor/reach";
import pino, { type Logger } from "pino";
import { WebSocket } from "ws";
import { ownMeasure } from "../measure.ts";
import type { OutputLimits } from "../output-keeper.ts";
import { ProcessDriver } from "../process-driver.ts";
import { userNamed } from "../run-as.ts";
import { allowList } from "./allow-list.ts";
import { AGENT_PATH, AGENT_SUBPROTOCOL, type FromAgent, HOST_HEADER, NAME_HEADER, ToAgent } from "./frames.ts";
import { watchForNotice } from "./notice.ts";

/** So often the service hears what is free here. */
const USAGE_EVERY_MS = 10_000;

const BACK_OFF: BackOff = { firstMs: 500, maxMs: 10_000 };

/** The service lets this agent not in; trying again does not help. */
export class AgentRefusedError extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

export interface AgentOptions {
  /** Address of the service, as instances here reach it too. */
  readonly url: string;
  readonly token: string;
  /** Folder that relative commands count from. */
  readonly workingFolder: string;
  /** Keeps what instances print, and which process is whose. */
  readonly dataFolder: string;
  readonly output: OutputLimits;
  /** With a token of a group: its name there, and the host at which players reach its instances. */
  readonly name?: string | undefined;
  readonly host?: string | undefined;
  /** User that instances run as; the agent's own when absent. It needs root. */
  readonly runAs?: string | undefined;
  /** Where control groups for instances are made; in the agent's own when absent, where it has one. */
  readonly cgroups?: string | undefined;
  /** Asked whether this machine is about to be taken away: see {@link watchForNotice}. */
  readonly notice?: string | undefined;
  /** Files and checksums (`sha256:...`) that may be run; whatever the service says when there are none. */
  readonly allow?: readonly string[];
  /** Warnings go to standard output as JSON when absent. */
  readonly log?: Logger;
  readonly signal: AbortSignal;
  readonly joined?: () => void;
}

/**
 * Runs instances on this computer for a service elsewhere. It connects outwards only, and again when it was cut off; what
 * runs here runs on meanwhile, and after it has ended too. Resolves when it is told to stop; rejects when it is refused.
 */
export async function runAgent(options: AgentOptions): Promise<void> {
  const { signal, dataFolder, log = pino({ level: "warn", base: undefined }) } = options;
  const folder = join(resolve(dataFolder), "instances");
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  let socket: WebSocket | undefined;
  let serviceUrl = options.url;
  // What has joined a group shows the token that it was given then.
  const tokenFile = join(resolve(dataFolder), "agent-token");
  let token = options.name !== undefined && existsSync(tokenFile) ? readFileSync(tokenFile, "utf8") : options.token;
  const say = (frame: FromAgent) => {
    // What is not heard now is asked for by the service when we are back.
    if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify(frame));
  };
  const runAs = options.runAs === undefined ? undefined : userNamed(options.runAs);
  if (runAs && "why" in runAs) {
    throw new AgentRefusedError(problem("start-refused", `Instances cannot run as ${options.runAs}: ${runAs.why}.`));
  }
  const driver = new ProcessDriver({
    folder,
    cgroups: options.cgroups ?? "auto",
    runAs,
    whyNot: allowList(options.allow ?? [], options.workingFolder),
    workingFolder: options.workingFolder,
    output: options.output,
    log,
    serviceUrl: () => serviceUrl,
    events: {
      spawned: (instance, pid) => say({ say: "spawned", instance, pid }),
      startFailed: (instance, why) => say({ say: "start-failed", instance, ...why }),
      overLimit: (instance, detail) => say({ say: "over-limit", instance, detail }),
      exited: (instance, exit) => say({ say: "exited", instance, ...exit }),
    },
  });
  const tellUsage = () => say({ say: "usage", ...ownMeasure() });
  // Said again at each connection: the service may have been away when it was said first.
  let notice: FromAgent | undefined;
  const stopAsking =
    options.notice === undefined
      ? () => undefined
      : watchForNotice(options.notice, {
          log,
          noticed: (given) => {
            notice = given;
            say(given);
          },
        });
  const telling = setInterval(tellUsage, USAGE_EVERY_MS);
  const obey = async (frame: ToAgent): Promise<void> => {
    switch (frame.do) {
      case "enrolled":
        token = frame.token;
        return writeFileSync(tokenFile, token, { mode: 0o600 });
      case "start":
        // A service that listens on loopback names an address that leads nowhere from here.
        serviceUrl = isAtHome(frame.serviceUrl) ? options.url : frame.serviceUrl;
        return driver.start(frame.request);
      case "adopt":
        return driver.adopt(frame.instance, frame.pid);
      case "signal":
        return driver.signal(frame.instance, frame.signal);
      case "size": {
        const { ask, instance, stream, part } = frame;
        return say({ say: "size", ask, bytes: await driver.output(instance, stream).size(part) });
      }
      case "read": {
        const { ask, instance, stream, part, from, max } = frame;
        const bytes = await driver.output(instance, stream).read(part, from, max);
        return say({ say: "read", ask, base64: bytes.toString("base64") });
      }
    }
  };
  try {
    for (let attempt = 1; !signal.aborted; attempt++) {
      const opened = new WebSocket(new URL(AGENT_PATH, options.url.replace(/^http/, "ws")), AGENT_SUBPROTOCOL, {
        headers: {
          authorization: `Bearer ${token}`,
          ...(options.name !== undefined && { [NAME_HEADER]: options.name }),
          ...(options.host !== undefined && { [HOST_HEADER]: options.host }),
        },
      });
      socket = opened;
      const stop = () => opened.close(1000, "the agent stops");
      signal.addEventListener("abort", stop, { once: true });
      opened.once("open", () => {
        attempt = 0;
        tellUsage();
        if (notice) say(notice);
        options.joined?.();
      });
      opened.on("message", (data) => {
        const frame = ToAgent.safeParse(JSON.parse(String(data)));
        if (!frame.success)
          return log.error({ issues: frame.error.issues }, "the service says what this agent does not know");
        obey(frame.data).catch((error: unknown) =>
          log.error({ err: error }, "an instruction could not be carried out"),
        );
      });
      const why = await untilClosed(opened);
      signal.removeEventListener("abort", stop);
      // A machine that was forgotten meanwhile joins its group anew.
      if (why instanceof AgentRefusedError && token !== options.token) {
        rmSync(tokenFile, { force: true });
        token = options.token;
        continue;
      }
      if (why instanceof AgentRefusedError) throw why;
      if (signal.aborted) return;
      log.warn({ why: why?.message }, "the service is away; what runs here runs on");
      await wait(pauseMs(Math.max(1, attempt), BACK_OFF, Math.random), undefined, { signal }).catch(() => undefined);
    }
  } finally {
    clearInterval(telling);
    stopAsking();
    driver.close();
  }
}

/** Whether an address is one of the computer that it is written on. */
const isAtHome = (url: string): boolean => URL.canParse(url) && isLoopback(new URL(url).hostname);

/** Resolves when a connection is over, with why when it never was one. */
function untilClosed(socket: WebSocket): Promise<Error | undefined> {
  return new Promise((resolve) => {
    let why: Error | undefined;
    socket.once("unexpected-response", (_request, response) => {
      let body = "";
      response.setEncoding("utf8").on("data", (chunk) => {
        body += chunk;
      });
      response.once("end", () => {
        try {
          const refused = JSON.parse(body) as Problem;
          why = refused.status < 500 ? new AgentRefusedError(refused) : new Error(refused.detail);
        } catch {
          why = new Error(`the service answered ${response.statusCode}`);
        }
        socket.terminate();
        resolve(why);
      });
    });
    socket.on("error", (error) => {
      why ??= error;
    });
    socket.once("close", () => resolve(why));
  });
}
