import type { AccountId, BanId } from "@yellow-harbor/protocol";

export type BanCommand =
  | {
      readonly do: "ban.set";
      readonly subject:
        | { readonly account: AccountId }
        /** Address or network as it was typed, of a right form. */
        | { readonly network: string; readonly everybody: boolean };
      readonly reason: string | undefined;
      readonly forMs: number | undefined;
      readonly by: string;
    }
  | { readonly do: "ban.lift"; readonly ban: BanId; readonly by: string }
  /** Its time is over. */
  | { readonly do: "ban.end"; readonly ban: BanId };
