import { z } from "zod";
import { AtMs, Transport } from "./basics.ts";
import { ConfigName } from "./ids.ts";
import { PORT_MAX } from "./limits.ts";

export const BuildVersion = z
  .string()
  .regex(/^[A-Za-z0-9][A-Za-z0-9._+-]{0,63}$/, "expected 1 to 64 of letters, digits and . _ + -, such as 1.4.0")
  .meta({ id: "BuildVersion", description: "Version of a build, such as 1.4.0." });
export type BuildVersion = z.infer<typeof BuildVersion>;

/** Longest pattern over what an instance prints, and most characters of a line that are looked at. */
export const PATTERN_MAX = 500;
export const WATCHED_LINE_MAX = 2_000;

const Pattern = z
  .string()
  .min(1)
  .max(PATTERN_MAX)
  .refine((source) => isPattern(source), "expected a regular expression");

const WhoPattern = Pattern.refine(
  (source) => !isPattern(source) || /\(\?<(id|name|place)>/.test(source),
  "expected a named group that tells the player: (?<name>...), (?<id>...) or (?<place>...)",
);

function isPattern(source: string): boolean {
  try {
    new RegExp(source, "u");
    return true;
  } catch {
    return false;
  }
}

/** Shortest and longest of the limits in time. */
const LongMs = (description: string) =>
  z
    .int()
    .min(1_000)
    .max(366 * 86_400_000)
    .meta({ description });

const MORE_PORTS_MAX = 8;

/** Most bytes of a probe's datagram, as they are sent. */
export const PROBE_BYTES_MAX = 512;

/** A question that a server answers when it is up. */
export const BuildProbe = z.strictObject({
  port: ConfigName.optional().meta({ description: "Purpose of the port that is asked; the server's own when absent." }),
  send: z
    .union([
      z.strictObject({ text: z.string().min(1).max(PROBE_BYTES_MAX) }),
      z.strictObject({
        hex: z
          .string()
          .max(2 * PROBE_BYTES_MAX)
          .regex(/^([0-9a-fA-F]{2})+$/, "expected pairs of hexadecimal digits, such as ffffffff54"),
      }),
    ])
    .meta({ description: "One datagram, as text or in hexadecimal digits; sent until it is answered." }),
  answer: Pattern.optional().meta({
    description: "What the answer has to match, each of its bytes a character; any answer will do when absent.",
  }),
});
export type BuildProbe = z.infer<typeof BuildProbe>;

/** What stands in `{}` in arguments and environment, beside `{port.PURPOSE}`. */
export const PLACEHOLDERS = [
  "host",
  "port",
  "instance",
  "key",
  "service",
  "level",
  "data",
  "assets",
  "client.build",
] as const;

/** Where a placeholder stands, and its name. */
export const placeholdersIn = (text: string): string[] =>
  [...text.matchAll(/\{([a-z][\w.-]*)\}/g)].map((found) => found[1] ?? "");

interface Reached {
  readonly ready: "kit" | "port" | { readonly line: string };
  readonly transport: Transport;
  readonly probe?: BuildProbe | undefined;
  readonly ports: readonly string[] | Readonly<Record<string, Transport>>;
}

/** The ports of a server beside its own, each with what it speaks, in order. */
export const morePortsOf = ({ ports, transport }: Pick<Reached, "ports" | "transport">): [string, Transport][] =>
  Array.isArray(ports)
    ? (ports as readonly string[]).map((purpose): [string, Transport] => [purpose, transport])
    : Object.entries(ports as Readonly<Record<string, Transport>>);

/** What cannot be reached in the way a build says. */
function probeFaults(spec: Reached): { readonly path: string[]; readonly message: string }[] {
  const { ready, transport, probe } = spec;
  if (probe === undefined) {
    if (ready !== "port" || transport !== "udp") return [];
    const message =
      "port is for TCP: that a UDP port is open cannot be seen; give a probe that the server answers, or use ready: kit or ready: { line }";
    return [{ path: ["ready"], message }];
  }
  const more = new Map(morePortsOf(spec));
  if (probe.port !== undefined && !more.has(probe.port)) {
    const message = `expected a purpose of ports (${[...more.keys()].join(", ") || "there are none"})`;
    return [{ path: ["probe", "port"], message }];
  }
  const asked = probe.port === undefined ? transport : more.get(probe.port);
  if (asked === "udp") return [];
  const message = `asks a port that speaks ${asked}; a probe is a datagram: expected a port of transport udp`;
  return [{ path: ["probe"], message }];
}

/** How to start one version of a dedicated server, and how to tell what it does. */
export const BuildSpec = z
  .strictObject({
    version: BuildVersion.default("1"),
    command: z
      .string()
      .min(1)
      .max(4096)
      .meta({ description: "Program to start; relative paths count from the configuration file." }),
    args: z
      .array(z.string().max(4096))
      .max(64)
      .default([])
      .meta({ description: "May hold placeholders, such as {port} and {port.query}; docs/instances.md lists them." }),
    environment: z
      .record(z.string().regex(/^[A-Za-z_][A-Za-z0-9_]*$/), z.string().max(4096))
      .default({})
      .meta({ description: "More of the environment; placeholders are filled in." }),
    folder: z.string().max(4096).optional().meta({
      description: "Working folder; the configuration file's when left out.",
    }),
    checksum: z
      .string()
      .regex(/^sha256:[0-9a-f]{64}$/, "expected sha256: and 64 hexadecimal digits")
      .optional()
      .meta({ description: "SHA-256 of the command's file; an instance is not started when it differs." }),
    assets: z.string().max(4096).optional().meta({ description: "Read-only folder of the game's data: {assets}." }),
    ready: z
      .union([z.enum(["kit", "port"]), z.strictObject({ line: Pattern })])
      .default("kit")
      .meta({
        description:
          "How a server becomes ready. kit: it announces itself; port: it listens on its port, or answers its probe; line: it prints a line.",
      }),
    transport: Transport.default("tcp").meta({
      description:
        "What its port speaks with players. Players are told; through the service each is passed on as it is.",
    }),
    probe: BuildProbe.optional().meta({
      description: "For UDP: what the service asks before the instance counts as reached; nobody asks when absent.",
    }),
    watch: z
      .strictObject({
        joined: WhoPattern.meta({ description: "Line that says who has joined." }),
        left: WhoPattern.optional().meta({ description: "Line that says who has left." }),
        score: WhoPattern.refine(
          (source) => !isPattern(source) || source.includes("(?<score>"),
          "expected a named group for the number: (?<score>...)",
        )
          .optional()
          .meta({
            description:
              "Line that says a player's score, such as ^(?<name>.+) has (?<score>-?\\d+)$; the last counts.",
          }),
        over: Pattern.optional().meta({ description: "Line that says that the match is over." }),
      })
      .optional()
      .meta({ description: "What the printed lines of a server mean that knows nothing of the service." }),
    berths: z.int().min(1).max(10_000).default(64).meta({ description: "Players of all its rooms together." }),
    rooms: z.int().min(1).max(1_000).default(1).meta({ description: "Rooms that it serves at once." }),
    matches: z.enum(["many", "one"]).default("many").meta({
      description: "many: one match after the other; one: it is retired after its first.",
    }),
    ports: z
      .union([
        z.array(ConfigName).max(MORE_PORTS_MAX),
        z
          .record(ConfigName, Transport)
          .refine((all) => Object.keys(all).length <= MORE_PORTS_MAX, `expected ${MORE_PORTS_MAX} ports at most`),
      ])
      .default([])
      .meta({
        description:
          "Purposes of more ports, each out of the pool's range: {port.PURPOSE}. A list, all of the build's transport, or a transport for each.",
      }),
    needs: z
      .strictObject({
        cpus: z.number().gt(0).max(1_024).optional().meta({ description: "CPUs that it keeps busy, such as 0.5." }),
        memoryMb: z.int().min(1).max(1_048_576).optional().meta({ description: "Memory that it takes." }),
      })
      .default({})
      .meta({ description: "What an instance takes of its machine: it is launched where that is free." }),
    limits: z
      .strictObject({
        runMs: LongMs("Longest run: then it takes no new room, and drains.").optional(),
        emptyMs: LongMs("How long a match may go on that all its players have left; then it is stopped.").optional(),
        memoryMb: z.int().min(16).max(1_048_576).optional().meta({
          description: "Resident memory of its processes together, after which it is killed.",
        }),
        cpus: z.number().min(0.01).max(1_024).optional().meta({
          description: "CPUs that its processes together may keep busy, such as 1.5; where control groups allow it.",
        }),
        niceness: z
          .int()
          .min(0)
          .max(19)
          .optional()
          .meta({ description: "0 to 19: the higher, the more other processes go first." }),
        openFiles: z.int().min(16).max(1_048_576).optional().meta({ description: "Maximum of open files." }),
      })
      .default({})
      .meta({ description: "Limits of its processes; none needs root." }),
  })
  .superRefine((spec, context) => {
    if (spec.ready === "kit" && spec.watch !== undefined) {
      context.addIssue({
        code: "custom",
        path: ["watch"],
        message: "is for servers that print ready or listen: expected ready: port or ready: { line }",
      });
    }
    if (spec.ready !== "kit" && spec.watch === undefined) {
      context.addIssue({
        code: "custom",
        path: ["watch"],
        message: "is missing; without it nobody knows who has joined",
      });
    }
    for (const fault of probeFaults(spec)) context.addIssue({ code: "custom", ...fault });
    if (spec.ready !== "kit" && spec.rooms > 1) {
      context.addIssue({
        code: "custom",
        path: ["rooms"],
        message: "expected 1: what is printed does not say of which room it is",
      });
    }
  });
export type BuildSpec = z.output<typeof BuildSpec>;
/** A build as it is written down, defaults left out. */
export type BuildSpecInput = z.input<typeof BuildSpec>;

export type Ready = BuildSpec["ready"];

/** Ports of an instance beside its own, by purpose. */
export const MorePorts = z.record(ConfigName, z.int().min(1).max(PORT_MAX)).meta({ id: "MorePorts" });
export type MorePorts = z.infer<typeof MorePorts>;

export const RollOutSteps = z
  .array(z.number().gt(0).max(1))
  .min(1)
  .max(10)
  .refine((steps) => steps.every((step, n) => n === 0 || step > (steps[n - 1] ?? 0)), "expected shares that rise");

/** How a new version takes the place of the former one. */
export const RollOut = z
  .strictObject({
    steps: RollOutSteps.default([0.1, 0.5, 1]).meta({ description: "Shares of new instances, one after the other." }),
    enough: z.int().min(1).max(10_000).default(5).meta({
      description: "Instances that have come up, or matches that were played, before the next step.",
    }),
    maxFailures: z.number().min(0).lt(1).default(0.2).meta({
      description: "Share of failed instances above which it is rolled back.",
    }),
  })
  .meta({ id: "RollOut" });
export type RollOut = z.output<typeof RollOut>;

export const AddBuild = z
  .strictObject({ spec: BuildSpec, rollOut: RollOut.prefault({}) })
  .meta({ id: "AddBuild", description: "A new version of a build line, and how it takes over." });

export const BuildVersionState = z.enum(["current", "canary", "former", "rolled-back"]).meta({
  id: "BuildVersionState",
  description:
    "current: new instances run it; canary: a share of them does; former: only what is left of it; rolled-back: it failed too often, or an operator said so.",
});
export type BuildVersionState = z.infer<typeof BuildVersionState>;

export const BuildView = z
  .object({
    line: ConfigName,
    version: BuildVersion,
    state: BuildVersionState,
    why: z.string(),
    addedAtMs: AtMs,
    share: z.number().optional().meta({ description: "Of a canary: its share of new instances now." }),
    launched: z.int().meta({ description: "Instances launched of it." }),
    failed: z.int().meta({ description: "Of these, failed." }),
    matches: z.int().meta({ description: "Matches that were played to their end." }),
    running: z.int(),
    spec: BuildSpec,
  })
  .meta({ id: "Build", description: "One version of a build line." });
export type BuildView = z.infer<typeof BuildView>;

export const BuildList = z.object({ builds: z.array(BuildView) }).meta({ id: "BuildList" });
export type BuildList = z.infer<typeof BuildList>;

export const ChangeRollOut = z
  .strictObject({ to: z.enum(["promoted", "rolled-back"]), reason: z.string().max(200).optional() })
  .meta({ id: "ChangeRollOut" });
