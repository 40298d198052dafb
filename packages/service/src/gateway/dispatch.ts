import {
  blockedViews,
  directoryPage,
  friendsOf,
  type Harbor,
  isDirectoryCursor,
  levelView,
  lobbySummary,
  ownAttributes,
  queueSummary,
  regionViews,
  roomKinds,
  ticketView,
} from "@yellow-harbor/core";
import type {
  LevelView,
  PlayerAsk,
  PlayerId,
  PlayerReply,
  Problem,
  QueueSummary,
  TicketView,
} from "@yellow-harbor/protocol";
import { problem } from "@yellow-harbor/protocol";
import type { HarborRuntime } from "../runtime/runtime.ts";
import type { CheckedRequest } from "./decode.ts";

export type Answer = { readonly reply: PlayerReply<PlayerAsk> } | { readonly refused: Problem };

/** Requests that touch no state, or need what is in no state; the gateway carries them out itself. */
type EphemeralAsk =
  | "room.relay"
  | "room.signal"
  | "lobby.chat"
  | "lobby.follow"
  | "lobby.unfollow"
  | "player.message"
  | "player.report"
  | "friends.follow"
  | "friends.unfollow";
export type EphemeralRequest = Extract<CheckedRequest, { ask: EphemeralAsk }>;
/** Requests whose arguments mean something in the world: looked at before they become commands. */
type VerifiedAsk = "travel.offer" | "travel.board" | "room.tell-echo";
export type VerifiedRequest = Extract<CheckedRequest, { ask: VerifiedAsk }>;
export type JournaledRequest = Exclude<CheckedRequest, { ask: EphemeralAsk | VerifiedAsk }>;

const lookedAt: ReadonlySet<string> = new Set<VerifiedAsk>(["travel.offer", "travel.board", "room.tell-echo"]);
export const needsVerifying = (request: CheckedRequest): request is VerifiedRequest => lookedAt.has(request.ask);

const passing: ReadonlySet<string> = new Set<EphemeralAsk>([
  "room.relay",
  "room.signal",
  "lobby.chat",
  "lobby.follow",
  "lobby.unfollow",
  "player.message",
  "player.report",
  "friends.follow",
  "friends.unfollow",
]);
export const isEphemeral = (request: CheckedRequest): request is EphemeralRequest => passing.has(request.ask);

/** Carries out a checked request of a player. `done` is called once all that the answer shows is durable. */
export function dispatch(
  request: JournaledRequest,
  player: PlayerId,
  runtime: HarborRuntime,
  done: (answer: Answer) => void,
): void {
  const fail = () =>
    done({ refused: problem("journal-unavailable", "The service cannot answer now; try again later.") });
  switch (request.ask) {
    case "level.list":
      return runtime.read(listLevels, (levels) => done({ reply: { levels } }), fail);
    case "region.list":
      return runtime.read(
        ({ rules }) => regionViews(rules),
        (regions) => done({ reply: { regions } }),
        fail,
      );
    case "room.kinds":
      return runtime.read(
        ({ state, rules }) => roomKinds(rules, state.players.byId.get(player)?.lobby ?? ""),
        (kinds) => done({ reply: { kinds } }),
        fail,
      );
    case "lobby.rooms": {
      const { args } = request;
      if (args.after !== undefined && !isDirectoryCursor(args.after)) return done({ refused: badCursor });
      return runtime.read(
        ({ state }) => directoryPage(state, state.players.byId.get(player)?.lobby ?? "", args),
        (page) => done({ reply: { ...page } }),
        fail,
      );
    }
    case "queue.list":
      return runtime.read(
        (harbor) => queuesFor(harbor, player),
        (queues) => done({ reply: { queues } }),
        fail,
      );
    case "queue.ticket":
      return runtime.read(
        ({ state }) => ownTicket(state, player),
        (ticket) => done(ticket ? { reply: { ticket } } : { refused: notSearching }),
        fail,
      );
    case "player.attributes":
      return runtime.read(
        ({ state, rules }) => ownAttributes(rules, state.players.byId.get(player)),
        (own) => done({ reply: own }),
        fail,
      );
    case "friends.list":
      return runtime.read(
        ({ state }) => friendsOf(state, player),
        (friends) => done({ reply: { friends } }),
        fail,
      );
    case "blocks.list":
      return runtime.read(
        ({ state }) => blockedViews(state, player),
        (blocked) => done({ reply: { blocked } }),
        fail,
      );
    case "friends.hide":
      return runtime.submit({ do: request.ask, player, args: request.args }, done);
    case "blocks.add":
    case "blocks.remove":
      return runtime.submit({ do: request.ask, player, args: request.args }, done);
    case "player.set-attributes":
      return runtime.submit({ do: request.ask, player, args: request.args }, done);
    case "player.switch-lobby":
      return runtime.submit({ do: request.ask, player, args: request.args }, done);
    case "lobby.list":
      return runtime.read(
        ({ state, rules }) => [...rules.lobbies].map(([id, { title }]) => lobbySummary(state, id, title)),
        (lobbies) => done({ reply: { lobbies } }),
        fail,
      );
    case "player.leave":
      return runtime.submit({ do: "player.leave", player }, done);
    default:
      return runtime.submit(asCommand(request, player), done);
  }
}

type RoomRequest = Extract<
  Exclude<JournaledRequest, { ask: "queue.list" | "queue.ticket" | "room.kinds" }>,
  {
    ask:
      | `room.${string}`
      | `board.${string}`
      | `private.${string}`
      | `travel.${string}`
      | `queue.${string}`
      | `party.${string}`;
  }
>;

/** Requests of rooms, parties, travels and queues are their commands, word for word, with the player who asks. */
const asCommand = ({ ask, args }: RoomRequest, player: PlayerId) =>
  ({ do: ask, player, args }) as {
    [R in RoomRequest as R["ask"]]: { do: R["ask"]; player: PlayerId; args: R["args"] };
  }[RoomRequest["ask"]];

function queuesFor({ state, rules }: Harbor, player: PlayerId): QueueSummary[] {
  const lobby = state.players.byId.get(player)?.lobby;
  const names = [...rules.queues].filter(([, queue]) => queue.lobby === lobby).map(([name]) => name);
  return names.map((name) => queueSummary(state, rules, name));
}

function ownTicket(state: Harbor["state"], player: PlayerId): TicketView | undefined {
  const ticket = state.queues.tickets.get(state.queues.byPlayer.get(player) ?? "");
  return ticket && ticketView(state, ticket);
}

const badCursor = problem("request-invalid", "args.after is no cursor of a page; give the `next` of the page before.", {
  fields: [{ path: "args.after", message: "expected the next of an earlier page" }],
});

const notSearching = problem("not-searching", "You are not searching; begin with queue.join.");

const listLevels = ({ rules }: Harbor): LevelView[] =>
  [...rules.levels.keys()].flatMap((id) => levelView(rules, id) ?? []);
