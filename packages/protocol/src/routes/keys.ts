import { z } from "zod";
import { CreatedKey, CreateKey, KeyId, KeyList, KeyView, RotateKey } from "../keys.ts";
import type { HttpRoutes } from "./route.ts";

const params = z.object({ key: KeyId });
const administers = { tag: "keys", needs: "administer" } as const;

/** Keys of operators. Every route here needs the highest role. */
export const keyRoutes = {
  keys: {
    ...administers,
    method: "GET",
    path: "/v1/keys",
    summary: "All keys, without their secrets.",
    reply: KeyList,
  },
  createKey: {
    ...administers,
    method: "POST",
    path: "/v1/keys",
    summary: "Create a key. Its secret is in this answer and nowhere else.",
    body: CreateKey,
    example: { name: "deploy-pipeline", role: "deploy", days: 90 },
    reply: CreatedKey,
  },
  rotateKey: {
    ...administers,
    method: "POST",
    path: "/v1/keys/:key/rotate",
    summary: "Create a key of the same name, role and length; the old one works on for the overlap.",
    params,
    body: RotateKey,
    example: { overlapMinutes: 60 },
    reply: CreatedKey,
  },
  revokeKey: {
    ...administers,
    method: "POST",
    path: "/v1/keys/:key/revoke",
    summary: "Revoke a key: it is worth nothing from now on.",
    params,
    reply: KeyView,
  },
} as const satisfies HttpRoutes;
