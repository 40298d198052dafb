import type { Room } from "./state.ts";

/** Whether those who know a member may follow it in: into a listed room, and by the room kind's leave into one that is joined by code. */
export const mayFollow = ({ visibility, policy }: Pick<Room, "visibility" | "policy">): boolean =>
  visibility !== "code-only" || policy.friendsJoin === true;
