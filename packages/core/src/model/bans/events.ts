import type { BanId } from "@yellow-harbor/protocol";
import type { Ban } from "./state.ts";

export type BanEvent =
  /** It takes the place of an earlier one of the same account or network. */
  | { readonly kind: "ban.set"; readonly ban: Ban }
  | { readonly kind: "ban.lifted"; readonly ban: BanId; readonly by: string }
  | { readonly kind: "ban.ended"; readonly ban: BanId };
