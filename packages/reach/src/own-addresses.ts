import { networkInterfaces } from "node:os";
import { type AddressKind, addressKind } from "./address-kind.ts";

export interface OwnAddress {
  readonly address: string;
  readonly kind: AddressKind;
  /** Name of the network interface. */
  readonly on: string;
}

const ORDER: readonly AddressKind[] = ["public", "local-network", "shared", "link-local", "loopback", "unusable"];

/** The addresses of this computer, the farthest-reaching first. */
export function ownAddresses(): OwnAddress[] {
  const all = Object.entries(networkInterfaces()).flatMap(([on, infos = []]) =>
    infos.map(({ address }) => ({ address, on, kind: addressKind(address) ?? "unusable" })),
  );
  return all.sort(
    (a, b) =>
      ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind) ||
      Number(a.address.includes(":")) - Number(b.address.includes(":")),
  );
}
