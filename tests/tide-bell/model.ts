import type { PlayerId, RoomId } from "@yellow-harbor/protocol";

export type BellCommand =
  | { readonly do: "bell.ring"; readonly player: PlayerId }
  | { readonly do: "bell.rest"; readonly room: RoomId };

export type BellEvent =
  | { readonly kind: "bell.rung"; readonly room: RoomId; readonly player: PlayerId; readonly untilMs: number }
  | { readonly kind: "bell.rested"; readonly room: RoomId };

export interface Rung {
  readonly untilMs: number;
}

/** Rooms whose bell rests. */
export interface BellsState {
  readonly byRoom: Map<RoomId, { readonly rungBy: PlayerId }>;
}

// Nothing else reads these, so they are added to the model from here.
declare module "../model/command.ts" {
  interface Commands {
    bell: BellCommand;
  }
}
declare module "../model/event.ts" {
  interface Events {
    bell: BellEvent;
  }
}
declare module "../model/due.ts" {
  interface DueKinds {
    bell: "bell-rest";
  }
}
declare module "../model/replies.ts" {
  interface OtherReplies {
    "bell.ring": Rung;
  }
}
declare module "../model/state.ts" {
  interface HarborState {
    readonly bells: BellsState;
  }
}
