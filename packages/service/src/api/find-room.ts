import type { Harbor, Room } from "@yellow-harbor/core";
import { type Problem, problem } from "@yellow-harbor/protocol";

export function findRoom({ state }: Harbor, idOrCode: string): Room | undefined {
  const { byId, byCode } = state.rooms;
  return byId.get(idOrCode) ?? byId.get(byCode.get(idOrCode.replace(/[\s-]/g, "").toUpperCase()) ?? "");
}

export const unknownRoom = (idOrCode: string): Problem =>
  problem(
    "room-unknown",
    `There is no room ${idOrCode}; rooms close when the last member leaves. \`yh room list\` shows those there are.`,
  );
