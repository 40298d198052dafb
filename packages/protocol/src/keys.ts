import { z } from "zod";
import { AtMs } from "./basics.ts";
import { id } from "./ids.ts";
import { hasOnlyPrintable } from "./text.ts";

export const KeyId = id("k", "a key");
export type KeyId = z.infer<typeof KeyId>;

/** Roles of operators; each may do all that the one before it may. */
export const OPERATOR_ROLES = ["look", "operate", "deploy", "administer"] as const;

export const OperatorRole = z.enum(OPERATOR_ROLES).meta({
  id: "OperatorRole",
  description:
    "look: read everything but secrets; operate: act on rooms, players, queues and pools; deploy: register what is run; administer: keys and backups. Each includes those before it.",
});
export type OperatorRole = z.infer<typeof OperatorRole>;

/** Whether a role includes what is needed. */
export const mayDo = (role: OperatorRole, needed: OperatorRole): boolean =>
  OPERATOR_ROLES.indexOf(role) >= OPERATOR_ROLES.indexOf(needed);

const KeyName = z
  .string()
  .trim()
  .min(1, "expected a name, such as deploy-pipeline")
  .max(64, "expected at most 64 characters")
  .refine(hasOnlyPrintable, "expected no control or direction-override characters");

/** Longest life of a key that has an end: ten years. */
const DAYS_MAX = 3_650;

export const KeyView = z
  .object({
    id: KeyId,
    name: z.string(),
    role: OperatorRole,
    state: z.enum(["valid", "ended", "revoked"]),
    createdAtMs: AtMs,
    endsAtMs: AtMs.optional().meta({ description: "Absent when it has no end." }),
    lastUsedAtMs: AtMs.optional().meta({ description: "To within a minute; absent when it was never used." }),
    lastUsedFrom: z.string().optional().meta({ description: "Address that it was used from last." }),
  })
  .meta({ id: "Key", description: "A key of an operator, without its secret." });
export type KeyView = z.infer<typeof KeyView>;

export const KeyList = z.object({ keys: z.array(KeyView) }).meta({ id: "KeyList" });
export type KeyList = z.infer<typeof KeyList>;

export const CreateKey = z
  .strictObject({
    name: KeyName.meta({ description: "Who or what uses it." }),
    role: OperatorRole,
    days: z
      .int()
      .min(1)
      .max(DAYS_MAX)
      .optional()
      .meta({ description: "After so many days it ends; never when left out." }),
  })
  .meta({ id: "CreateKey" });

export const RotateKey = z
  .strictObject({
    overlapMinutes: z.int().min(0).max(10_080).default(60).meta({
      description: "How long the old key still works beside the new one, in minutes.",
    }),
  })
  .meta({ id: "RotateKey" });

export const CreatedKey = z
  .object({
    key: KeyView,
    secret: z.string().meta({ description: "The key itself. It is shown this once; only its hash is stored." }),
  })
  .meta({ id: "CreatedKey" });
export type CreatedKey = z.infer<typeof CreatedKey>;
