import { CODE_ALPHABET, CODE_LENGTH, type OpenedRoom, policyOf } from "@yellow-harbor/protocol";
import { accept, type Decision, type RoomsContext, refuse } from "../../model/decision.ts";
import type { OperatorRoomCommand } from "../../model/rooms/commands.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { newId } from "../../model/stamp.ts";
import type { RoomsPart } from "../../model/state.ts";
import { codesUsedUp, freeCode, harborOfCode } from "../entry/codes.ts";
import { firstLevel, kindFor } from "../entry/decide-entry.ts";
import { firstSettings } from "../settings/declared.ts";
import { unknownRegion } from "../settings/regions.ts";
import { roomView } from "../view.ts";

type Opening = Extract<OperatorRoomCommand, { do: "room.operator-open" }>;

/** Opens a room with nobody in it. The same request, known by its key, opens no other. */
export function operatorOpen(context: RoomsContext, { wish, request }: Opening): Decision<OpenedRoom> {
  const known = request && openedBefore(context, request);
  if (known !== undefined) return known;
  const { state, rules, at, random } = context;
  const { lobby, code, name, level: wanted, visibility, password, build = "", keepMs } = wish;
  if (!rules.lobbies.has(lobby)) {
    const accepted = [...rules.lobbies.keys()];
    return refuse("lobby-unknown", `There is no lobby ${lobby}; the lobbies are ${accepted.join(", ")}.`, { accepted });
  }
  const unknown = unknownRegion(rules, wish.region);
  if (unknown) return unknown;
  const found = kindFor(context, lobby, wish);
  if ("refused" in found) return found;
  const { kindName, kind, capacity } = found;
  const level = firstLevel(context, found, wanted);
  if (level !== undefined && "refused" in level) return level;
  const first = firstSettings({ kind: kindName, rules: kind, isOperator: true }, wish);
  if ("refused" in first) return first;
  const coded = code === undefined ? freeCode(state.rooms, rules) : codeAsked(context, code);
  if (coded === undefined) return codesUsedUp(state.rooms.byCode.size);
  if ("refused" in coded) return coded;
  const room = newId("r", random);
  const opened: RoomEvent = {
    kind: "room.set-up",
    room,
    ...coded,
    name: name ?? `Room ${coded.code}`,
    lobby,
    roomKind: kindName,
    capacity,
    build,
    policy: policyOf(kind),
    ...(level && { level }),
    ...(wish.region !== undefined && { region: wish.region }),
    ...(visibility !== undefined && { visibility }),
    ...(password !== undefined && { password }),
    ...(Object.keys(first.settings).length > 0 && { settings: first.settings }),
    keptUntilMs: at + keepMs,
    ...(request && { request }),
  };
  return accept([opened], { reply: stateReply(room) });
}

/** What the same request was answered with before; undefined when it is new. */
function openedBefore(
  { state: { rooms } }: RoomsContext,
  { key, fingerprint }: NonNullable<Opening["request"]>,
): Decision<OpenedRoom> | undefined {
  const known = rooms.requests.get(key);
  if (known === undefined) return undefined;
  if (known.fingerprint !== fingerprint) {
    return refuse("request-key-reused", `The key ${key} was given with another request; give each its own.`);
  }
  if (rooms.byId.has(known.room)) return accept([], { reply: stateReply(known.room) });
  return refuse("room-unknown", `This request has opened room ${known.code} before, which has closed meanwhile.`);
}

/** A code is somebody's choice only while no room has it, and of those that this harbor gives out. */
function codeAsked({ state, rules }: RoomsContext, code: string) {
  if (state.rooms.byCode.has(code))
    return refuse("room-code-taken", `Room ${code} is open already; ask for another code.`);
  const harbor = harborOfCode(code, rules);
  if (harbor === rules.share.number) return { code };
  if (harbor === undefined) {
    const message = `expected ${CODE_LENGTH} characters out of ${CODE_ALPHABET}`;
    return refuse("request-invalid", `No room can have the code ${code}; ${message}.`, {
      fields: [{ path: "code", message }],
    });
  }
  return refuse("room-code-taken", `The code ${code} belongs to another harbor; ask for another, or for none.`);
}

const stateReply =
  (id: string) =>
  (state: RoomsPart): OpenedRoom => {
    const room = state.rooms.byId.get(id);
    if (room === undefined) throw new Error(`room ${id} is gone before its view was given`);
    return { room: roomView(state, room) };
  };
