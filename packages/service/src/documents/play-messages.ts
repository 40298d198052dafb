import {
  Chat,
  Closing,
  DirectMessage,
  DirectoryUpdate,
  Echo,
  FriendsUpdate,
  Heartbeat,
  Hello,
  Notice,
  type PlayerAsk,
  Problem,
  playerRequests,
  problem,
  Refused,
  Relayed,
  requestExamples,
  Signal,
  Update,
  Waiting,
  Welcome,
  WIRE_VERSION,
} from "@yellow-harbor/protocol";
import { z } from "zod";

/** One kind of frame, as it is described. */
export interface Message {
  readonly title: string;
  readonly summary: string;
  readonly schema: z.ZodType;
  readonly from: "player" | "service";
  readonly example?: object;
  /** Whether it is a request, or the answer to one. */
  readonly isAnswer?: true;
}

/** Frames that are no requests and no answers to them. */
export const frames: Readonly<Record<string, Message>> = {
  Hello: {
    title: "hello",
    summary: "First frame: who one is.",
    schema: Hello,
    from: "player",
    example: { frame: "hello", wire: WIRE_VERSION, build: "tidewrights-1", name: "Brisa" },
  },
  Welcome: {
    title: "welcome",
    summary: "Answer to the hello: who one is here, and the complete state.",
    schema: Welcome,
    from: "service",
  },
  Update: {
    title: "update",
    summary: "Something happened; with the merge patch for the state.",
    schema: Update,
    from: "service",
    example: {
      frame: "update",
      scope: "lobby",
      id: "quayside",
      revision: 12,
      event: { kind: "player-gone", player: "p_8fkx2m9qw4zr", reason: "left" },
      patch: { players: { p_8fkx2m9qw4zr: null } },
    },
  },
  Waiting: {
    title: "waiting",
    summary: "The harbor is full: one's place in the line.",
    schema: Waiting,
    from: "service",
    example: {
      frame: "waiting",
      position: 3,
      of: 12,
      sinceMs: 1_764_329_472_000,
      estimateMs: 40_000,
      token: "Zk3sWq9b1aXe.1764329472000.1764329502000.c2lnbmF0dXJl",
    },
  },
  Heartbeat: {
    title: "heartbeat",
    summary: "The client is still there, and wants its clock back.",
    schema: Heartbeat,
    from: "player",
    example: { frame: "heartbeat", sentMs: 1_250.5, roundTripMs: 31 },
  },
  Echo: {
    title: "echo",
    summary: "The echo of a heartbeat.",
    schema: Echo,
    from: "service",
    example: { frame: "echo", sentMs: 1_250.5, atMs: 1_764_329_472_000 },
  },
  Relayed: {
    title: "relayed",
    summary: "A message that a member has passed on.",
    schema: Relayed,
    from: "service",
    example: { frame: "relayed", room: "r_4kq2m7c9x0ab", from: "p_8fkx2m9qw4zr", body: { horn: "long" } },
  },
  Signal: {
    title: "signal",
    summary: "Something that a member passes to this one alone, for connecting directly.",
    schema: Signal,
    from: "service",
    example: { frame: "signal", room: "r_4kq2m7c9x0ab", from: "p_8fkx2m9qw4zr", body: { candidate: "192.0.2.7:7801" } },
  },
  Directory: {
    title: "directory",
    summary: "What changed in the directory that is followed.",
    schema: DirectoryUpdate,
    from: "service",
    example: { frame: "directory", changed: [], gone: ["r_4kq2m7c9x0ab"], total: 7 },
  },
  Friends: {
    title: "friends",
    summary: "What changed among the friends that are followed.",
    schema: FriendsUpdate,
    from: "service",
    example: {
      frame: "friends",
      changed: [
        {
          account: "game:4711",
          player: "p_8fkx2m9qw4zr",
          name: "Brisa",
          presence: "here",
          lobby: "quayside",
          room: { id: "r_4kq2m7c9x0ab", name: "Slack water", kind: "crews", phase: "gathering", isOpen: true },
        },
      ],
      gone: ["game:4712"],
    },
  },
  Chat: {
    title: "chat",
    summary: "What a player has said in the lobby.",
    schema: Chat,
    from: "service",
    example: {
      frame: "chat",
      lobby: "quayside",
      from: "p_8fkx2m9qw4zr",
      name: "Brisa",
      text: "Anyone for brine-gate?",
    },
  },
  Message: {
    title: "message",
    summary: "What a player has said to this one alone.",
    schema: DirectMessage,
    from: "service",
    example: { frame: "message", from: "p_8fkx2m9qw4zr", name: "Brisa", text: "Well built." },
  },
  Notice: {
    title: "notice",
    summary: "What an operator has to say.",
    schema: Notice,
    from: "service",
    example: { frame: "notice", to: "harbor", text: "The service restarts in five minutes." },
  },
  Refused: {
    title: "refused",
    summary: "A protocolError that belongs to no request.",
    schema: Refused,
    from: "service",
    example: { frame: "refused", problem: problem("frame-not-json", "The frame is not JSON; send one JSON object.") },
  },
  Closing: {
    title: "closing",
    summary: "Last frame before the service closes the socket, with the reason.",
    schema: Closing,
    from: "service",
    example: { frame: "closing", problem: problem("taken-over", "You connected again elsewhere; this ends here.") },
  },
};

const id = z.int().min(0).max(0xffff_ffff);

export const PROBLEM_REPLY: Message = {
  title: "reply with a problem",
  summary: "The request was refused.",
  schema: z.object({ frame: z.literal("reply"), id: z.int(), problem: Problem }),
  from: "service",
  example: { frame: "reply", id: 7, problem: problem("room-full", "Room K7QM2 is full: 4 of 4.") },
  isAnswer: true,
};

export function requestOf(ask: PlayerAsk): Message {
  const { summary, args }: { summary: string; args: z.ZodType } = playerRequests[ask];
  const example = requestExamples[ask];
  // Where every argument may be left out, so may all of them.
  const isOptional = args.safeParse({}).success;
  const schema = z.strictObject({
    frame: z.literal("request"),
    id,
    ask: z.literal(ask),
    args: isOptional ? args.optional() : args,
  });
  const said = Object.keys(example).length === 0 ? {} : { args: example };
  return {
    title: `${ask} request`,
    summary,
    schema,
    from: "player",
    example: { frame: "request", id: 7, ask, ...said },
    isAnswer: true,
  };
}

export function replyTo(ask: PlayerAsk): Message {
  const { reply }: { reply: z.ZodType } = playerRequests[ask];
  const schema = z.object({ frame: z.literal("reply"), id, reply });
  // Many are answered with the revision alone, or with nothing.
  const short = [{ revision: 12 }, {}].find((one) => reply.safeParse(one).success);
  return {
    title: `${ask} reply`,
    summary: `Reply to ${ask}.`,
    schema,
    from: "service",
    ...(short && { example: { frame: "reply", id: 7, reply: short } }),
    isAnswer: true,
  };
}
