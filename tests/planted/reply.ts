// A command answered with something else than its reply.
import { accept } from "../../packages/core/src/model/decision.ts";
import type { Handlers } from "../../packages/core/src/model/handlers.ts";
import type { RoomCommand } from "../../packages/core/src/model/rooms/commands.ts";
import type { RoomsPart } from "../../packages/core/src/model/state.ts";

type Ready = Handlers<RoomCommand, RoomsPart>["room.ready"];

export const setReady: Ready = () => accept([], { reply: () => ({ revison: 1 }) });

export const saysNothing: Ready = () => accept([]);
