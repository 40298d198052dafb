import { z } from "zod";
import { AtMs } from "./basics.ts";
import { OperatorRole } from "./keys.ts";

/** Who did something: an operator by key, in a browser's session, or on this computer where access is open; or a player who moderates. */
export const AuditActor = z
  .object({
    by: z.enum(["key", "session", "first-key", "open", "moderator", "nobody"]).meta({
      description:
        "key; session: logged in to the console with a key; first-key: the key of the data folder; open: no key is needed; moderator: a player with that role in its account token; nobody: a wrong key, or one that two use.",
    }),
    id: z.string().optional().meta({ description: "Id of the key; of a moderator, its account." }),
    name: z.string(),
    role: OperatorRole.optional(),
  })
  .meta({ id: "AuditActor" });
export type AuditActor = z.infer<typeof AuditActor>;

export const AuditEntry = z
  .object({
    seq: z.int(),
    atMs: AtMs,
    actor: AuditActor,
    from: z.string().meta({ description: "Address that it came from." }),
    action: z.string().meta({
      description:
        "Name of the route, such as closeRoom; of a moderator, of the request, such as room.kick; or wrong-key, or key-in-two-places.",
    }),
    target: z.string().optional().meta({ description: "What it was done to." }),
    reason: z.string().optional(),
    result: z
      .string()
      .meta({ description: "done, or the code of the problem it was refused with; seen for what was only noticed." }),
  })
  .meta({ id: "AuditEntry", description: "Something that an operator or a moderator did, or tried to." });
export type AuditEntry = z.infer<typeof AuditEntry>;

export const AuditQuery = z.object({
  limit: z.coerce.number().int().min(1).max(1_000).default(100),
  before: z.coerce.number().int().min(1).optional().meta({ description: "Only entries before this number." }),
  name: z.string().max(200).optional().meta({ description: "Only what this actor did." }),
  action: z.string().max(64).optional().meta({ description: "Only this action." }),
});
export type AuditQuery = z.infer<typeof AuditQuery>;

export const AuditPage = z
  .object({
    entries: z.array(AuditEntry).meta({ description: "The newest first." }),
    next: z.int().optional().meta({ description: "Give it as before for the page after this one." }),
  })
  .meta({ id: "AuditPage" });
export type AuditPage = z.infer<typeof AuditPage>;

export const AuditCheck = z
  .object({
    entries: z.int(),
    firstSeq: z.int().optional(),
    lastSeq: z.int().optional(),
    head: z
      .string()
      .meta({ description: "Sum of all entries (SHA-256): note it elsewhere to hold a later log against it." }),
    fault: z.string().optional().meta({ description: "What does not fit; absent when all does." }),
  })
  .meta({ id: "AuditCheck", description: "Whether every entry of the audit log is there as it was written." });
export type AuditCheck = z.infer<typeof AuditCheck>;
