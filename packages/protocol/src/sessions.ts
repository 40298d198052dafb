import { z } from "zod";
import { AtMs } from "./basics.ts";
import { id } from "./ids.ts";
import { OperatorRole } from "./keys.ts";

export const SessionId = id("s", "a session");
export type SessionId = z.infer<typeof SessionId>;

/** Cookie of a session. */
export const SESSION_COOKIE = "yh_session";
/** Header that every request with a cookie repeats the session's token in, but those that only read. */
export const CSRF_HEADER = "x-yh-csrf";

/** Header of answers to operators: the version of the service. */
export const VERSION_HEADER = "x-yh-version";

export const LogIn = z
  .strictObject({
    key: z.string().max(200).optional().meta({ description: "Key of an operator." }),
    code: z.string().max(200).optional().meta({ description: "Code of a link, which is good for one use." }),
  })
  .refine(({ key, code }) => (key === undefined) !== (code === undefined), {
    message: "expected either a key or the code of a link",
    path: ["key"],
  })
  .meta({ id: "LogIn" });

/** Who is asking. */
export const WhoAmI = z
  .object({
    name: z.string(),
    role: OperatorRole,
    by: z.enum(["key", "session", "first-key", "open"]),
    session: SessionId.optional(),
    csrf: z
      .string()
      .optional()
      .meta({ description: "To be repeated in the x-yh-csrf header of what changes something." }),
    endsAtMs: AtMs.optional().meta({ description: "When the session ends at the latest." }),
  })
  .meta({ id: "WhoAmI" });
export type WhoAmI = z.infer<typeof WhoAmI>;

export const SessionView = z
  .object({
    id: SessionId,
    name: z.string(),
    role: OperatorRole,
    from: z.string(),
    agent: z.string().meta({ description: "What the browser calls itself." }),
    createdAtMs: AtMs,
    lastUsedAtMs: AtMs,
    endsAtMs: AtMs,
    isOwn: z.boolean().meta({ description: "Whether this is the session that asks." }),
  })
  .meta({ id: "Session", description: "A browser that is logged in to the console." });
export type SessionView = z.infer<typeof SessionView>;

export const SessionList = z.object({ sessions: z.array(SessionView) }).meta({ id: "SessionList" });
export type SessionList = z.infer<typeof SessionList>;

export const LogInLink = z
  .object({
    code: z.string().meta({ description: "Good for one log-in, within ten minutes." }),
    untilMs: AtMs,
  })
  .meta({ id: "LogInLink" });
export type LogInLink = z.infer<typeof LogInLink>;
