import type { IncomingMessage } from "node:http";
import { BlockList, isIP, isIPv6 } from "node:net";

/** Hops of a forwarding header that are looked at; who needs more has more proxies than anybody. */
const HOPS_MAX = 16;
/** Characters of the header's end in which those hops are looked for. */
const HEADER_MAX = 1_024;

/** Tells whether an address belongs to one of the proxies that are believed. */
export type TrustsProxy = (address: string) => boolean;

/** From addresses and networks such as `10.0.0.0/8`; those of another form are for the configuration to refuse. */
export function trustedProxies(networks: readonly string[]): TrustsProxy {
  if (networks.length === 0) return () => false;
  const list = new BlockList();
  for (const network of networks) {
    const [address = "", prefix] = network.split("/");
    const family = isIPv6(address) ? "ipv6" : "ipv4";
    if (prefix === undefined) list.addAddress(address, family);
    else list.addSubnet(address, Number(prefix), family);
  }
  return (address) => {
    // A link-local address may come with the name of its link (RFC 4007, section 11).
    const [bare = ""] = address.split("%");
    return isIP(bare) !== 0 && list.check(bare, isIPv6(bare) ? "ipv6" : "ipv4");
  };
}

/** Whether a text is an address or a network, as {@link trustedProxies} takes it. */
export function isNetwork(text: string): boolean {
  const [address = "", prefix, ...rest] = text.split("/");
  const family = isIP(address);
  if (family === 0 || rest.length > 0) return false;
  return prefix === undefined || (/^\d{1,3}$/.test(prefix) && Number(prefix) <= (family === 4 ? 32 : 128));
}

/**
 * Where a request comes from. `X-Forwarded-For` is believed as far as listed proxies wrote it: from its end, the first
 * address that is none of theirs. What stands before that the client may have made up.
 */
export function callerOf({ headers, socket }: IncomingMessage, trusts: TrustsProxy): string {
  let address = plain(socket.remoteAddress ?? "unknown");
  if (!trusts(address)) return address;
  const forwarded = String(headers["x-forwarded-for"] ?? "").slice(-HEADER_MAX);
  for (const hop of forwarded.split(",").slice(-HOPS_MAX).reverse()) {
    const named = plain(hop.trim());
    if (isIP(named) === 0) break;
    address = named;
    if (!trusts(address)) break;
  }
  return address;
}

/** An IPv4 address that came in by an IPv6 socket is written as what it is. */
const plain = (address: string) => address.replace(/^::ffff:(?=\d+\.\d+\.\d+\.\d+$)/i, "");
