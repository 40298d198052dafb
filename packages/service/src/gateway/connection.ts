import type { PlayerId, Problem, ServiceFrame } from "@yellow-harbor/protocol";
import type { AddressQuota } from "../front-door/address-gate.ts";
import type { ClientChannel } from "./client-channel.ts";
import type { CheckedRequest } from "./decode.ts";
import { Frame } from "./framing.ts";
import type { GatewayMeter } from "./meter.ts";

/** Requests that are kept until the welcome. */
export const EARLY_MAX = 16;

const NOTHING = Promise.resolve();

export interface ConnectionSource {
  /** Address it comes from, as it is told to nobody but its own player. */
  readonly from: string;
  /** Of its address: what all who come from there share. */
  readonly quota: AddressQuota;
}

/** One client that is connected, as the harbor's side knows it. It knows its player once the hello was accepted. */
export class Connection {
  readonly #channel: ClientChannel;
  readonly #meter: Pick<GatewayMeter, "refused">;
  /** Tells the connections of a player apart. */
  readonly number: number;
  readonly from: string;
  readonly quota: AddressQuota;
  player: PlayerId | undefined;
  /** A hello is being decided. */
  isGreeting = false;
  /** Whether the room was told that its game is silent. */
  isSilent = false;
  /** Done when the last request is that something had to be looked up for. */
  looking: Promise<void> = NOTHING;
  /** What was asked before the welcome, to be answered after it; made with the first. */
  #early: CheckedRequest[] | undefined;

  constructor(
    number: number,
    channel: ClientChannel,
    { from, quota }: ConnectionSource,
    meter: Pick<GatewayMeter, "refused">,
  ) {
    this.number = number;
    this.#channel = channel;
    this.#meter = meter;
    this.from = from;
    this.quota = quota;
  }

  get isOpen(): boolean {
    return this.#channel.isOpen;
  }

  /** Keeps a request until the welcome. False when there are too many. */
  keepEarly(request: CheckedRequest): boolean {
    this.#early ??= [];
    return this.#early.length < EARLY_MAX && this.#early.push(request) > 0;
  }

  takeEarly(): readonly CheckedRequest[] {
    const early = this.#early ?? [];
    this.#early = undefined;
    return early;
  }

  send(frame: Frame): void {
    this.#channel.send(frame);
  }

  say(frame: ServiceFrame): void {
    this.#channel.send(new Frame(JSON.stringify(frame)));
  }

  /** Answers a request with a problem. */
  sayProblem(id: number, problem: Problem): void {
    this.#meter.refused(problem.code);
    this.say({ frame: "reply", id, problem });
  }

  /** Refuses what has no reply. */
  sayRefused(problem: Problem): void {
    this.#meter.refused(problem.code);
    this.say({ frame: "refused", problem });
  }

  refuse(protocolError: Problem, requestId?: number): void {
    this.#meter.refused(protocolError.code);
    this.#channel.refuse(protocolError, requestId);
  }

  close(reason: Problem): void {
    if (this.isOpen) this.#meter.refused(reason.code);
    this.#channel.close(reason);
  }

  closeNormally(): void {
    this.#channel.closeNormally();
  }
}
