import type { ReservedFor } from "@yellow-harbor/protocol";
import type { Command } from "../model/command.ts";
import type { TestHarbor } from "./test-harbor.ts";

export const OPERATING = [
  "open",
  "change",
  "put",
  "ready",
  "start",
  "end",
  "reserve",
  "reserve",
  "cancel",
  "invite",
  "invite",
  "uninvite",
  "decline",
  "mute",
] as const;
export type Operating = (typeof OPERATING)[number];

const KINDS = ["crews", "sided", "open-house", "relayed"] as const;

/** The game's own back end does something to a room, with somebody who is there, an account, or nobody. */
export function operate(
  test: TestHarbor,
  players: readonly string[],
  { how, which, size }: { readonly how: Operating; readonly which: number; readonly size: number },
): void {
  const rooms = [...test.harbor.state.rooms.byId.values()];
  const known = rooms[which % Math.max(1, rooms.length)];
  const room = known?.id ?? "r_none";
  const player = players[size % Math.max(1, players.length)] ?? "p_none";
  const who: ReservedFor = size % 3 === 0 ? { account: `game:${size % 2}` } : { player };
  const [kept = { for: who }] = known?.reservations.values() ?? [];
  const invited =
    "player" in kept.for ? kept.for.player : (test.harbor.state.players.byAccount.get(kept.for.account) ?? player);
  const basedOn = size === 6 ? (known?.revision ?? 0) : undefined;
  const side = known?.policy.sides && size % 2 === 0 ? "north" : undefined;
  const kind = KINDS[size % KINDS.length];
  const request = size % 3 === 0 ? { key: `key ${size % 2}`, fingerprint: "one" } : undefined;
  const commands: Record<Operating, Command> = {
    open: { do: "room.operator-open", wish: { lobby: "quayside", kind, capacity: 3, keepMs: 2_000 }, request },
    change: {
      do: "room.operator-change",
      room,
      basedOn,
      change: { capacity: 2 + (size % 3), settings: { tide: size } },
    },
    put: { do: "room.operator-put", room, player, side },
    ready: { do: "room.operator-ready", room, player, ready: size > 0 },
    start: { do: "room.operator-start", room, basedOn },
    // Rare, or few runs would come to their own end.
    end: size > 3 ? { do: "room.operator-start", room } : { do: "room.operator-end", room, reason: undefined },
    reserve: {
      do: "room.operator-reserve",
      room,
      basedOn,
      place: { for: who, forMs: 1_000 + size * 1_500, ...(side && { side }) },
    },
    invite: {
      do: "room.invite",
      player: known?.host ?? player,
      args: "account" in who ? { account: who.account } : { player },
    },
    uninvite: {
      do: "room.uninvite",
      player: known?.host ?? player,
      args: "account" in kept.for ? { account: kept.for.account } : { player: kept.for.player },
    },
    decline: { do: "room.decline", player: invited, args: { room } },
    // Seldom, or nobody would hear of anything.
    mute: { do: "room.mute-invites", player, args: { muted: size === 0 } },
    cancel: { do: "room.operator-cancel", room, for: kept.for },
  };
  test.run(commands[how]);
}
