import { setTimeout as wait } from "node:timers/promises";
import type { OfferedAddress, Probed } from "@yellow-harbor/core";
import { reachTable } from "@yellow-harbor/protocol";
import { askUdp, sameAddress, tryTcp } from "@yellow-harbor/reach";
import { datagramOf } from "./probe.ts";

interface Looking {
  readonly mode: "own" | "any" | "off";
  /** Where the member comes from, when it is connected. */
  readonly from: string | undefined;
}

/** A world that was just offered may still be opening its port: it is waited for as an instance is. */
const PATIENCE_MS = 5_000;
const TRY_MS = 2_000;
/** A datagram may be lost: it is sent again soon, but no flood of them comes of an offer. */
const ASK_MS = 500;
const PAUSE_MS = 150;

/**
 * Tries the addresses of a member's world, side by side. Anybody may name any address, so by default only the one that
 * the member itself comes from is tried: the service is nobody's tool for looking at other people's ports.
 */
export function probeWorld(addresses: readonly OfferedAddress[], looking: Looking): Promise<Probed[]> {
  return Promise.all(addresses.map((address) => probeOne(address, looking)));
}

async function probeOne(address: OfferedAddress, { mode, from }: Looking): Promise<Probed> {
  const { host, port, transport, probe } = address;
  if (transport === "udp" && probe === undefined) {
    return { address, reached: null, detail: "was not probed: it speaks UDP, and no probe is given" };
  }
  const isOwn = from !== undefined && sameAddress(host, from);
  // What a member has sent goes to nobody but itself: bytes of its own choice would be a weapon elsewhere.
  const mayTry = probe ? mode !== "off" && isOwn : mode === "any" || (mode === "own" && isOwn);
  if (!mayTry) {
    const why = mode === "off" ? "probing is off" : "it is not the address that the member comes from";
    return { address, reached: null, detail: `was not probed: ${why}` };
  }
  const begin = performance.now();
  for (let attempt = 1; ; attempt++) {
    const tried = probe ? await askUdp(host, port, datagramOf(probe.send), ASK_MS) : await tryTcp(host, port, TRY_MS);
    const ms = Math.round(performance.now() - begin);
    if (tried.ok) return { address, reached: true, detail: `answers after ${ms} ms` };
    if (ms >= PATIENCE_MS) {
      const cause = reachTable[tried.cause].title.toLowerCase();
      return { address, reached: false, detail: `does not answer in ${attempt} attempts over ${ms} ms: ${cause}` };
    }
    await wait(PAUSE_MS);
  }
}
