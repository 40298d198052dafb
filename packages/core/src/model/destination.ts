import type { Address, InstanceId, PlayerId } from "@yellow-harbor/protocol";

/** Where a room goes, once it is known that it can. */
export type Destination =
  | { readonly by: "relayed" }
  | { readonly by: "dedicated"; readonly instance: InstanceId; readonly address: Address }
  | { readonly by: "player-hosted"; readonly player: PlayerId; readonly addresses: readonly Address[] };
