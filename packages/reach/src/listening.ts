import { readFileSync } from "node:fs";
import ipaddr from "ipaddr.js";

export interface Listening {
  readonly address: string;
  readonly port: number;
}

/** State of a listening socket in the kernel's tables (proc_net_tcp.txt of the Linux documentation). */
const LISTENS = "0A";

/** TCP ports that something on this computer listens on, or undefined where the system has no table of them to read. */
export function listeningPorts(): Listening[] | undefined {
  const tables = ["/proc/net/tcp", "/proc/net/tcp6"].map(read);
  if (tables.every((table) => table === undefined)) return undefined;
  const found = tables.flatMap((table) => (table ?? "").split("\n").slice(1).flatMap(entryOf));
  const unique = new Map(found.map((one) => [`${one.address} ${one.port}`, one]));
  return [...unique.values()].sort((a, b) => a.port - b.port || (a.address < b.address ? -1 : 1));
}

function read(file: string): string | undefined {
  try {
    return readFileSync(file, "utf8");
  } catch {
    return undefined;
  }
}

export function entryOf(line: string): Listening[] {
  const [, local = "", , state] = line.trim().split(/\s+/);
  const [hex = "", port = ""] = local.split(":");
  if (state !== LISTENS) return [];
  return [{ address: addressOf(hex), port: Number.parseInt(port, 16) }];
}

/** The kernel writes words of four bytes, each with its lowest byte first. */
function addressOf(hex: string): string {
  const words = hex.match(/.{8}/g) ?? [];
  const bytes = words.flatMap((word) => (word.match(/../g) ?? []).reverse().map((byte) => Number.parseInt(byte, 16)));
  return ipaddr.fromByteArray(bytes).toString();
}
