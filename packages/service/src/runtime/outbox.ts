import {
  type Effect,
  type FriendsChange,
  friendsChange,
  type HarborEvent,
  type HarborState,
  type ListingChange,
  listingChange,
  type Push,
} from "@yellow-harbor/core";
import type { BoardingPass, Patch, Problem } from "@yellow-harbor/protocol";
import { problemOf, type RuntimeFailure } from "./failure.ts";

export type OwedPush = Extract<Push, { scope: "pass" }>;
export type UpdatePush = Exclude<Push, OwedPush>;

/** Something an operator watches. */
export interface OperatorEvent {
  readonly atMs: number;
  readonly kind: string;
  readonly text: string | undefined;
  readonly patch: Patch;
}

/** How a command ended. */
export type Settled<Reply = unknown> = { readonly reply: Reply } | { readonly refused: Problem };

/** What is said or done once a batch is durable, in the order in which it was decided. */
export type OutboxEntry =
  | { readonly out: "push"; readonly push: UpdatePush }
  | { readonly out: "pass"; readonly push: OwedPush; pass: BoardingPass | undefined }
  | { readonly out: "listing"; readonly change: ListingChange }
  | { readonly out: "friends"; readonly change: FriendsChange }
  | { readonly out: "happened"; readonly happened: OperatorEvent }
  | {
      readonly out: "settle";
      /** Work that needs the settled command and may take a moment, done while the batch is being written. */
      readonly prepare: (() => Promise<void>) | undefined;
      /** Whatever was decided, it is refused. */
      readonly refuse: (refused: Problem) => void;
      readonly done: () => void;
    }
  | { readonly out: "effect"; readonly effect: Effect }
  | { readonly out: "run"; readonly run: () => void; readonly fail: (error: Error) => void };

/** Those who carry out what the outbox holds. */
export interface Deliveries {
  readonly push: (push: UpdatePush) => void;
  readonly pass: (player: string, pass: BoardingPass) => void;
  /** Whether anybody wants to hear of listings now. */
  readonly isFollowed: () => boolean;
  readonly listing: (change: ListingChange) => void;
  readonly areFriendsFollowed: () => boolean;
  readonly friends: (change: FriendsChange) => void;
  readonly happened: (happened: OperatorEvent) => void;
  readonly effect: (effect: Effect) => void;
  /** Nothing is taken any more; everybody who waited was told. */
  readonly failed: (failure: RuntimeFailure) => void;
  /** A batch was spoken in full: what was gathered may go out. */
  readonly flush: () => void;
}

/** What an event that was just applied changes for those who follow directories or friends; nothing is worked out for nobody. */
export function followed(
  { isFollowed, areFriendsFollowed }: Pick<Deliveries, "isFollowed" | "areFriendsFollowed">,
  state: HarborState,
  event: HarborEvent,
): OutboxEntry[] {
  const listing = isFollowed() ? listingChange(state, event) : undefined;
  const friends = areFriendsFollowed() ? friendsChange(state, event) : undefined;
  return [
    ...(listing ? [{ out: "listing" as const, change: listing }] : []),
    ...(friends ? [{ out: "friends" as const, change: friends }] : []),
  ];
}

/** Hands one entry to whoever carries it out. */
export function deliver(outlets: Deliveries, entry: OutboxEntry): void {
  switch (entry.out) {
    case "push":
      return outlets.push(entry.push);
    case "pass":
      return entry.pass && outlets.pass(entry.push.to, entry.pass);
    case "listing":
      return outlets.listing(entry.change);
    case "friends":
      return outlets.friends(entry.change);
    case "happened":
      return outlets.happened(entry.happened);
    case "settle":
      return entry.done();
    case "effect":
      return outlets.effect(entry.effect);
    case "run":
      return entry.run();
  }
}

/** Tells whoever waits for an entry that it comes to nothing. */
export function callOff(entry: OutboxEntry, failure: RuntimeFailure): void {
  if (entry.out === "settle") {
    entry.refuse(problemOf(failure));
    entry.done();
  }
  if (entry.out === "run") entry.fail(failure.error);
}
