import { Address, BuildSpec, ConfigName, InstanceId, MorePorts } from "@yellow-harbor/protocol";
import { z } from "zod";

/** Path of the agents' WebSocket, and its subprotocol (RFC 6455, section 1.9). */
export const AGENT_PATH = "/v1/agent";
export const AGENT_SUBPROTOCOL = "yellow-harbor-agent.1";

/** Headers with which a machine that joins a group says its name, and the host at which players reach it. */
export const NAME_HEADER = "x-yellow-harbor-machine";
export const HOST_HEADER = "x-yellow-harbor-host";

/** Most bytes of output in one answer. */
export const READ_MAX = 262_144;

const Stream = z.enum(["out", "err"]);
const Part = z.enum(["now", "former"]);

export const StartFrame = z.object({
  instance: InstanceId,
  spec: BuildSpec,
  environment: z.record(z.string(), z.string()),
  secrets: z.record(z.string(), z.string()).default({}),
  address: Address,
  ports: MorePorts,
  level: ConfigName.nullable(),
  client: z.string().nullish(),
  key: z.string(),
});

/** What the service tells an agent. */
export const ToAgent = z.discriminatedUnion("do", [
  /** It is of a group now; from here on it shows this token. */
  z.object({ do: z.literal("enrolled"), machine: ConfigName, token: z.string() }),
  z.object({ do: z.literal("start"), request: StartFrame, serviceUrl: z.string() }),
  z.object({ do: z.literal("adopt"), instance: InstanceId, pid: z.int() }),
  z.object({ do: z.literal("signal"), instance: InstanceId, signal: z.enum(["terminate", "kill"]) }),
  z.object({
    do: z.literal("size"),
    ask: z.int(),
    instance: InstanceId,
    stream: Stream,
    part: z.union([Part, z.literal("cut")]),
  }),
  z.object({
    do: z.literal("read"),
    ask: z.int(),
    instance: InstanceId,
    stream: Stream,
    part: Part,
    from: z.int().min(0),
    max: z.int().min(1).max(READ_MAX),
  }),
]);
export type ToAgent = z.infer<typeof ToAgent>;

/** What an agent says. */
export const FromAgent = z.discriminatedUnion("say", [
  z.object({ say: z.literal("spawned"), instance: InstanceId, pid: z.int() }),
  z.object({
    say: z.literal("start-failed"),
    instance: InstanceId,
    detail: z.string().max(2_000),
    portTaken: z.boolean(),
  }),
  z.object({ say: z.literal("over-limit"), instance: InstanceId, detail: z.string().max(2_000) }),
  z.object({
    say: z.literal("exited"),
    instance: InstanceId,
    exitCode: z.int().nullable(),
    signal: z.string().max(32).nullable(),
  }),
  z.object({
    say: z.literal("usage"),
    cpus: z.number().gt(0).max(100_000),
    memoryMb: z.int().min(1).max(1_000_000_000),
    load: z.number().min(0).max(1),
    memoryFreeMb: z.int().min(0).max(1_000_000_000),
  }),
  /** This machine is about to be taken away. */
  z.object({
    say: z.literal("notice"),
    withinMs: z.int().min(0).max(86_400_000),
    why: z.string().max(300).optional(),
  }),
  z.object({ say: z.literal("size"), ask: z.int(), bytes: z.int().min(0) }),
  z.object({ say: z.literal("read"), ask: z.int(), base64: z.string() }),
]);
export type FromAgent = z.infer<typeof FromAgent>;
