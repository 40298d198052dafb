import { type OperatorRoutes, problem } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type KeyRoutes = Pick<OperatorRoutes, "keys" | "createKey" | "rotateKey" | "revokeKey">;

/** Keys of operators: created, listed, rotated with an overlap, revoked. */
export const keyHandlers = ({ access: { keys } }: ApiParts): Handlers<KeyRoutes> => ({
  keys: () => ({ keys: keys.list() }),
  createKey: ({ body: { name, role, days } }) => keys.create(name, role, days),
  rotateKey: async ({ params: { key }, body: { overlapMinutes } }) =>
    (await keys.rotate(key, overlapMinutes * 60_000)) ?? unknown(key, "or it has ended; create a new one"),
  revokeKey: async ({ params: { key } }) => (await keys.revoke(key)) ?? unknown(key, "nothing was revoked"),
});

const unknown = (key: string, remedy: string) => ({
  refused: problem(
    "key-unknown",
    `There is no key ${key} that can be used, ${remedy}. \`yh key list\` shows them all.`,
  ),
});
