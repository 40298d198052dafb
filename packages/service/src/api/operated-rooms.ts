import { createHash } from "node:crypto";
import { type OperatorRoomCommand, privateEntriesIn, roomKinds } from "@yellow-harbor/core";
import { type OpenedRoom, type OperatorRoutes, type Problem, problem } from "@yellow-harbor/protocol";
import type { FastifyRequest } from "fastify";
import { Passwords } from "../gateway/passwords.ts";
import { findRoom, unknownRoom } from "./find-room.ts";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";
import { commandsTo } from "./to-room.ts";

type OperatedRooms = Pick<
  OperatorRoutes,
  | `${"open" | "change" | "start"}Room`
  | "putInRoom"
  | "readyMember"
  | "endRun"
  | "roomKinds"
  | "reservations"
  | "privateEntries"
  | "reservePlace"
  | "cancelReservation"
>;

type ToRoom = Exclude<OperatorRoomCommand, { do: "room.operator-open" }>;
/** A command of which the room is still to be found. */
type Doing = ToRoom extends infer C ? (C extends ToRoom ? Omit<C, "room" | "basedOn"> : never) : never;

/** What the game's own back end does to rooms without being a player. */
export function operatedRoomHandlers({ runtime, tokens }: ApiParts): Handlers<OperatedRooms> {
  const command = commandsTo(runtime);
  const passwords = new Passwords(tokens);
  /** With a password as it is kept: the harbor never sees it as it was typed. */
  const sealed = async <B extends { password?: string | null | undefined }>(body: B): Promise<B> =>
    typeof body.password === "string" ? { ...body, password: await passwords.seal(body.password) } : body;
  /** Does it unless the room has changed since it was looked at. */
  const toRoom = async (idOrCode: string, request: FastifyRequest, doing: Doing) => {
    const basedOn = revisionIn(request.headers["if-match"]);
    if (typeof basedOn === "object") return { refused: basedOn };
    return command(idOrCode, (room) => ({ ...doing, room, basedOn }));
  };
  return {
    roomKinds: () => ({ kinds: roomKinds(runtime.rules) }),
    openRoom: async ({ body, request }) => {
      const key = keyIn(request.headers["idempotency-key"]);
      if (typeof key === "object") return { refused: key };
      const { password: typed, ...rest } = body;
      const password = typed === undefined ? undefined : tokens.keyedSum("password", typed).toString("base64url");
      const asked = key === undefined ? undefined : { key, fingerprint: fingerprintOf({ ...rest, password }) };
      const settled = await runtime.ask({ do: "room.operator-open", wish: await sealed(body), request: asked });
      return "refused" in settled ? settled : (settled.reply satisfies OpenedRoom);
    },
    changeRoom: async ({ params, body, request }) =>
      toRoom(params.room, request, { do: "room.operator-change", change: await sealed(body) }),
    putInRoom: ({ params, body: { player, side }, request }) =>
      toRoom(params.room, request, { do: "room.operator-put", player, side }),
    readyMember: ({ params, body: { player, ready }, request }) =>
      toRoom(params.room, request, { do: "room.operator-ready", player, ready }),
    startRoom: ({ params, request }) => toRoom(params.room, request, { do: "room.operator-start" }),
    endRun: ({ params, body: { reason }, request }) =>
      toRoom(params.room, request, { do: "room.operator-end", reason }),
    privateEntries: async ({ params }) => {
      const entries = await runtime.query((harbor) => {
        const room = findRoom(harbor, params.room);
        return room && privateEntriesIn(harbor.state, room.id);
      });
      return entries === undefined ? { refused: unknownRoom(params.room) } : { entries };
    },
    reservations: async ({ params }) => {
      const found = await runtime.query((harbor) => findRoom(harbor, params.room)?.reservations);
      if (found === undefined) return { refused: unknownRoom(params.room) };
      const reservations = [...found.values()].map(({ for: who, name, side, untilMs }) => ({
        for: who,
        untilMs,
        ...(name !== null && { name }),
        ...(side !== null && { side }),
      }));
      return { reservations };
    },
    reservePlace: ({ params, body: place, request }) =>
      toRoom(params.room, request, { do: "room.operator-reserve", place }),
    cancelReservation: ({ params, body, request }) =>
      toRoom(params.room, request, { do: "room.operator-cancel", for: body.for }),
  };
}

/** The entity tag of a room at a revision (RFC 9110, section 8.8.3). */
export const tagOf = (revision: number): string => `"${revision}"`;

/** The revision that an `If-Match` names; undefined when there is none, or when any will do. */
function revisionIn(header: string | undefined): number | undefined | Problem {
  if (header === undefined || header.trim() === "*") return undefined;
  const [, digits] = /^"(\d{1,15})"$/.exec(header.trim()) ?? [];
  if (digits !== undefined) return Number(digits);
  return problem("request-invalid", 'If-Match is no entity tag of a room; expected one such as "12", quotes included.');
}

const KEY_MAX = 128;

function keyIn(header: string | string[] | undefined): string | undefined | Problem {
  if (header === undefined) return undefined;
  if (typeof header === "string" && header.length > 0 && header.length <= KEY_MAX) return header;
  return problem("request-invalid", `Idempotency-Key is empty or too long; expected 1 to ${KEY_MAX} characters.`);
}

/** Of what was asked, whatever the order of its members. */
function fingerprintOf(body: object): string {
  const sorted = JSON.stringify(body, (_key, value: unknown) =>
    typeof value === "object" && value !== null && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
      : value,
  );
  return createHash("sha256").update(sorted).digest("base64url");
}
