import type { HarborState } from "@yellow-harbor/core";
import { type Problem, problem } from "@yellow-harbor/protocol";
import type { CheckedRequest } from "./decode.ts";
import type { JournaledRequest } from "./dispatch.ts";
import type { Passwords } from "./passwords.ts";

type WithPassword = Extract<CheckedRequest, { ask: "room.open" | "room.change" | "room.join" | "room.watch" }>;

/** Whether a request says a password, to set or to try. Taking one away needs no looking at. */
export function saysPassword(request: JournaledRequest): request is WithPassword {
  const { ask } = request;
  const may = ask === "room.open" || ask === "room.change" || ask === "room.join" || ask === "room.watch";
  return may && typeof request.args.password === "string";
}

const busy = problem("harbor-busy", "Too many passwords are looked at now; try again in a second.");

/**
 * The same request with the password as it is kept: one to set is sealed, one to try becomes what its room keeps when it is
 * the right one, and nothing of the kind when it is not. As it was typed it goes no further than this.
 */
export async function withKeptPassword(
  request: WithPassword,
  { state, passwords, quota }: { readonly state: HarborState; readonly passwords: Passwords; readonly quota: object },
): Promise<JournaledRequest | { readonly refused: Problem }> {
  const { password: typed, ...args } = request.args;
  if (typeof typed !== "string") return request;
  if (passwords.isBusyFor(quota)) return { refused: busy };
  const isSet = request.ask === "room.open" || request.ask === "room.change";
  const password = await passwords.doFor(quota, () =>
    isSet ? passwords.seal(typed) : tried(typed, keptBy(state, request.args), passwords),
  );
  // The arguments stay those of their request.
  return { ...request, args: { ...args, password } } as JournaledRequest;
}

async function tried(typed: string, kept: string | undefined, passwords: Passwords): Promise<string> {
  return kept !== undefined && (await passwords.isRight(typed, kept)) ? kept : "wrong";
}

type Named = Extract<WithPassword, { ask: "room.join" | "room.watch" }>["args"];

/** What the room keeps that somebody names. Whether there is such a room, and may be known of, the harbor says. */
function keptBy({ rooms, players }: HarborState, args: WithPassword["args"]): string | undefined {
  const named = args as Named;
  if ("room" in named) return rooms.byId.get(named.room)?.password;
  if ("code" in named) return rooms.byId.get(rooms.byCode.get(named.code) ?? "")?.password;
  const friend = players.byId.get(players.byAccount.get(named.friend) ?? "");
  return rooms.byId.get(friend?.room ?? "")?.password;
}
