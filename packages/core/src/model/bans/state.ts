import type { AccountId, BanId } from "@yellow-harbor/protocol";

/** Whom a ban concerns. A network is in its one canonical form: see `bans/network.ts`. */
export type BanSubject =
  | { readonly account: AccountId }
  | { readonly network: string /** Not guests alone. */; readonly everybody: boolean };

export type Ban = BanSubject & {
  readonly id: BanId;
  readonly reason: string | null;
  readonly by: string;
  readonly atMs: number;
  /** null when it has no end. */
  readonly untilMs: number | null;
};

export interface BansState {
  readonly byId: Map<BanId, Ban>;
  readonly byAccount: Map<AccountId, BanId>;
  /** By network in canonical form. */
  readonly byNetwork: Map<string, BanId>;
}

export const newBansState = (): BansState => ({ byId: new Map(), byAccount: new Map(), byNetwork: new Map() });
