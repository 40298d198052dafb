import { z } from "zod";
import { Transport } from "../basics.ts";
import { BuildProbe } from "../builds.ts";
import { ConfigName, PlayerId, RunId } from "../ids.ts";
import { PORT_MAX } from "../limits.ts";
import { Reason } from "../text.ts";
import { Done } from "./shapes.ts";

const Run = RunId.meta({ description: "The run that is travelled to: what comes late for an earlier one is refused." });

/** Name or address of a host as people and programs write it; what it stands for is looked at when it is offered. */
const Host = z
  .string()
  .max(255)
  .regex(/^[A-Za-z0-9_.:%[\]-]+$/, "expected a host name or an IP address");

export const OFFERED_MAX = 4;

/** The way to a level, from the members' side. */
export const travelRequests = {
  "travel.progress": {
    summary: "Say how far one has loaded. It only goes up.",
    args: z.strictObject({ run: Run, percent: z.int().min(0).max(100) }),
    reply: Done,
  },
  "travel.arrive": {
    summary: "Say that one has arrived, where no instance and no hosting member says so. Once.",
    args: z.strictObject({ run: Run }),
    reply: Done,
  },
  "travel.abort": {
    summary: "Give the travel up: everybody is where they were, ready as they were. Host only.",
    args: z.strictObject({ run: Run, reason: Reason.optional() }),
    reply: Done,
  },
  "travel.offer": {
    summary: "As the member who is asked to run the world: say that it is up, and where it is reached.",
    args: z.strictObject({
      run: Run,
      addresses: z
        .array(
          z.strictObject({
            host: Host.optional().meta({ description: "When absent: the address the service sees one come from." }),
            port: z.int().min(1).max(PORT_MAX),
            transport: Transport.optional().meta({ description: "What is spoken there." }),
            probe: BuildProbe.pick({ send: true })
              .optional()
              .meta({ description: "Of a UDP address: a datagram that is answered there; not probed without it." }),
          }),
        )
        .min(1)
        .max(OFFERED_MAX)
        .meta({ description: "In the order in which the others should try them." }),
    }),
    reply: Done,
  },
  "travel.decline": {
    summary: "As the member who is asked to run the world: say that one cannot. The next destination is taken.",
    args: z.strictObject({ run: Run, reason: Reason }),
    reply: Done,
  },
  "travel.trouble": {
    summary: "Say that one cannot reach the destination. When a member runs the world the next one is taken.",
    args: z.strictObject({ run: Run, reason: Reason }),
    reply: Done,
  },
  "travel.board": {
    summary: "As the member who runs the world: show the pass of a player who has come. Its berth is filled, once.",
    args: z.strictObject({
      pass: z.string().min(1).max(4096),
      attempt: z.string().min(1).max(64).optional().meta({
        description: "One's own mark for the player's connection: a repeat with the same one is answered again.",
      }),
    }),
    reply: z.object({
      player: z.object({ id: PlayerId, name: z.string(), place: z.int() }),
      run: RunId,
      level: ConfigName,
      spectator: z.literal(true).optional().meta({
        description: "It looks on, as far behind the run as `spectators.delayMs` of the room says.",
      }),
    }),
  },
  "travel.pass": {
    summary: "Ask for a pass to the run under way: for who comes late, or has lost its way in.",
    args: z.strictObject({ run: Run }),
    reply: Done,
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;
