import type { Command } from "../model/command.ts";
import { runOf } from "../model/find-room.ts";
import type { TestHarbor } from "./test-harbor.ts";

export const PARTYING = [
  ...(["open", "open", "join", "join", "join", "join", "invite", "invite", "accept", "accept", "decline"] as const),
  ...(["uninvite", "leave", "kick", "hand-over", "stay", "follow", "bring", "bring", "enter", "enter"] as const),
  ...([
    "search",
    "search",
    "account",
    "watch",
    "watch",
    "watch",
    "watch",
    "join-watched",
    "pass",
    "lantern",
    "stones",
    "block",
    "unblock",
    "hide",
    "friends",
    "here-only",
    "whisper",
    "whisper",
    "side-plan",
    "side-plan",
    "withdraw",
    "echo",
    "echo",
    "measure",
  ] as const),
] as const;
export type Partying = (typeof PARTYING)[number];

/** Somebody does something about a party, or looks on. */
export function partying(
  test: TestHarbor,
  players: readonly string[],
  {
    how,
    who,
    whom,
    size,
  }: { readonly how: Partying; readonly who: number; readonly whom: number; readonly size: number },
): void {
  const { state } = test.harbor;
  const player = players[who % Math.max(1, players.length)] ?? "p_none";
  // Who is away asks for nothing.
  if (state.players.byId.get(player)?.presence !== "here") return;
  const other = players[whom % Math.max(1, players.length)] ?? "p_none";
  const known = [...state.parties.byId.values()];
  const code = known[size % Math.max(1, known.length)]?.code ?? "CCCCCCCC";
  const [invited = "g_none"] = state.parties.invitedTo.get(`player:${player}`) ?? [];
  const rooms = [...state.rooms.byId.keys()];
  const room = rooms[whom % Math.max(1, rooms.length)] ?? "r_none";
  const brought = { attributes: { skill: 1_000 + size } };
  const commands: Record<Partying, Command> = {
    open: { do: "party.open", player, args: brought },
    join: { do: "party.join", player, args: { code, ...brought } },
    invite: { do: "party.invite", player, args: { player: other } },
    account: { do: "party.invite", player, args: { account: `game:${size % 2}` } },
    accept: { do: "party.join", player, args: { party: invited, ...brought } },
    decline: { do: "party.decline", player, args: { party: invited } },
    uninvite: { do: "party.uninvite", player, args: { player: other } },
    leave: { do: "party.leave", player, args: {} },
    kick: { do: "party.kick", player, args: { player: other } },
    "hand-over": { do: "party.hand-over", player, args: { to: other } },
    stay: { do: "party.set", player, args: { follows: false } },
    follow: { do: "party.set", player, args: { follows: true, ...brought } },
    bring: { do: "party.bring", player, args: {} },
    enter: {
      do: "room.quick-join",
      player,
      args: { move: size % 2 === 0, alone: size === 5, ...(size === 1 && { region: "north-quay" }) },
    },
    watch: { do: "room.watch", player, args: { room, move: size % 3 === 0 } },
    "join-watched": { do: "room.join", player, args: { room: state.players.byId.get(player)?.room ?? room } },
    pass: { do: "travel.pass", player, args: { run: runOf(state.rooms.byId.get(room)) ?? "u_none" } },
    lantern: { do: "player.set-attributes", player, args: { attributes: { lantern: size % 2 ? "amber" : null } } },
    stones: { do: "player.set-attributes", player, args: { attributes: { stones: size, lantern: "green" } } },
    block: { do: "blocks.add", player, args: size === 3 ? { account: "game:1" } : { player: other } },
    unblock: { do: "blocks.remove", player, args: { player: other } },
    hide: { do: "friends.hide", player, args: { hidden: size % 2 === 0 } },
    friends: { do: "friends.set", player, set: { friends: [`game:${size % 3}`], ...(size > 4 && { blocked: [] }) } },
    "here-only": { do: "room.set-attributes", player, args: { attributes: { stones: size > 4 ? null : size } } },
    whisper: { do: "private.set", player, args: { key: `k${size % 3}`, value: { size }, to: { player: other } } },
    "side-plan": {
      do: "private.set",
      player,
      args: { key: `k${size % 3}`, value: [size, null], to: { side: size % 2 === 0 ? "north" : "south" } },
    },
    withdraw: { do: "private.remove", player, args: { key: `k${size % 3}` } },
    echo: { do: "room.tell-echo", player, echo: size % 3 === 0 ? null : `udp://203.0.113.${size}:7700` },
    measure: { do: "room.tell-latencies", player, args: { latencyMs: size === 3 ? {} : { [other]: 10 * size } } },
    search: { do: "queue.join", player, args: { queue: "pairs", ...brought } },
  };
  test.ask(player, commands[how]);
}
