import { type FieldFault, type Problem, problem, SettingValue } from "@yellow-harbor/protocol";
import { z } from "zod";

const Attributes = z.record(z.string().min(1).max(64), z.union([SettingValue, z.array(z.string().max(200)).max(256)]));

const Need = z.union([
  z.object({ attribute: z.string(), must: z.literal("equal") }),
  z.object({ attribute: z.string(), oneOf: z.array(SettingValue) }),
  z.object({ attribute: z.string(), from: z.number().optional(), to: z.number().optional() }),
]);

const SECONDS_MAX = 1e9;

/** One line of traffic: a ticket, when it began to search, and when it gave up if it did. Seconds from any beginning. */
export const TicketLine = z
  .object({
    at: z.number().min(0).max(SECONDS_MAX),
    ticket: z.string().min(1).max(128),
    players: z
      .array(
        z.object({
          id: z.string().min(1).max(128),
          attributes: Attributes.optional(),
          latencyMs: z.record(z.string(), z.number()).optional(),
        }),
      )
      .min(1)
      .max(64),
    attributes: Attributes.optional(),
    needs: z.array(Need).max(32).optional(),
    cancelAt: z.number().min(0).max(SECONDS_MAX).optional(),
  })
  .refine(({ at, cancelAt }) => cancelAt === undefined || cancelAt >= at, {
    message: "expected cancelAt to be no earlier than at",
    path: ["cancelAt"],
  });
export type TicketLine = z.infer<typeof TicketLine>;

export type ReadTraffic =
  | { readonly ok: true; readonly tickets: readonly TicketLine[] }
  | { readonly ok: false; readonly problem: Problem };

const FAULTS_TOLD = 20;

/**
 * Reads traffic, one ticket a line in JSON; empty lines are passed over. Refused with `traffic-invalid` and the lines at
 * fault when a line is not JSON, does not fit, or names a ticket again.
 */
export function readTraffic(text: string): ReadTraffic {
  const tickets: TicketLine[] = [];
  const faults: FieldFault[] = [];
  const lineOf = new Map<string, number>();
  for (const [n, line] of text.split("\n").entries()) {
    if (line.trim() === "") continue;
    const read = readLine(line);
    if ("faults" in read) {
      faults.push(...read.faults.map(({ path, message }) => ({ path: placeOf(n, path), message })));
      continue;
    }
    const first = lineOf.get(read.ticket.ticket);
    if (first !== undefined) {
      faults.push({
        path: placeOf(n, "ticket"),
        message: `${read.ticket.ticket} is the ticket of line ${first} already`,
      });
      continue;
    }
    lineOf.set(read.ticket.ticket, n + 1);
    tickets.push(read.ticket);
  }
  if (faults.length === 0) return { ok: true, tickets: tickets.sort((a, b) => a.at - b.at) };
  const more = faults.length > FAULTS_TOLD ? `, the first ${FAULTS_TOLD} of which are named` : "";
  const detail = `The traffic has ${faults.length} fault${faults.length === 1 ? "" : "s"}${more}; each line is one ticket in JSON, such as {"at": 0, "ticket": "t1", "players": [{"id": "p1"}]}.`;
  return { ok: false, problem: problem("traffic-invalid", detail, { fields: faults.slice(0, FAULTS_TOLD) }) };
}

const placeOf = (n: number, path: string) => `line ${n + 1}${path === "" ? "" : `: ${path}`}`;

function readLine(line: string): { ticket: TicketLine } | { faults: readonly FieldFault[] } {
  let value: unknown;
  try {
    value = JSON.parse(line);
  } catch (error) {
    return { faults: [{ path: "", message: `is not JSON: ${(error as Error).message}` }] };
  }
  const checked = TicketLine.safeParse(value);
  if (checked.success) return { ticket: checked.data };
  return { faults: checked.error.issues.map(({ path, message }) => ({ path: path.join("."), message })) };
}
