import ipaddr from "ipaddr.js";

/** Who can reach an address. */
export type AddressKind = "loopback" | "link-local" | "local-network" | "shared" | "public" | "unusable";

export const kindWords: { readonly [K in AddressKind]: string } = {
  loopback: "this computer alone",
  "link-local": "the same cable or radio alone",
  "local-network": "the local network",
  shared: "the provider's network: many share one public address, and nobody gets in from outside",
  public: "public-looking: anybody, if no firewall is in between",
  unusable: "nobody: the address stands for no single computer",
};

/** What ranges are called in the registries of special-purpose addresses (RFC 6890). */
const kinds: Readonly<Record<string, AddressKind>> = {
  unicast: "public",
  private: "local-network",
  uniqueLocal: "local-network",
  loopback: "loopback",
  linkLocal: "link-local",
  // Never on the public internet; who has one all the same has it in a network of its own.
  reserved: "local-network",
  carrierGradeNat: "shared",
};

/** Kind of an IP address, or undefined for what is none. An IPv4 address within an IPv6 one counts as what it is. */
export function addressKind(host: string): AddressKind | undefined {
  const address = parse(host);
  return address && (kinds[address.range()] ?? "unusable");
}

/** Whether an address can be told to others at all. */
export const isUsable = (host: string): boolean => addressKind(host) !== "unusable";

/** Whether two texts are one address, however each is written. */
export function sameAddress(one: string, other: string): boolean {
  const [a, b] = [parse(one), parse(other)];
  return a === undefined || b === undefined ? one === other : a.toNormalizedString() === b.toNormalizedString();
}

/** Whether a host is this computer alone: one of its own addresses, or the name that stands for them. */
export const isLoopback = (host: string): boolean => host === "localhost" || addressKind(host) === "loopback";

/**
 * What counts as one for limits: whoever has one IPv6 address commonly has the 2^64 of its network (RFC 6177). An IPv4
 * address is itself however it is written, and so is what is no address.
 */
export function networkOf(address: string): string {
  const known = parse(address);
  if (!(known instanceof ipaddr.IPv6)) return known?.toString() ?? address;
  const network = known.parts.slice(0, 4).map((part) => part.toString(16));
  return `${network.join(":")}::/64`;
}

function parse(host: string): ipaddr.IPv4 | ipaddr.IPv6 | undefined {
  const bare = host.replace(/^\[|\]$/g, "").replace(/%.*$/, "");
  // Short and octal forms are read differently by different programs, so they count as no address.
  if (!ipaddr.IPv4.isValidFourPartDecimal(bare) && !ipaddr.IPv6.isValid(bare)) return undefined;
  return ipaddr.process(bare);
}
