import { performance } from "node:perf_hooks";
import { setTimeout as wait } from "node:timers/promises";
import { type Address, addressText, type BuildProbe, reachTable } from "@yellow-harbor/protocol";
import { askUdp, tryTcp } from "@yellow-harbor/reach";
import { type OutputPattern, outputPattern } from "./patterns.ts";

export interface Probed {
  readonly reached: boolean;
  readonly detail: string;
}

export interface Probing {
  readonly address: Address;
  /** What is asked where that is UDP. */
  readonly probe: BuildProbe | undefined;
  readonly patienceMs: number;
  /** Whether anybody still wants to know. */
  readonly isWanted: () => boolean;
}

const TRY_MS = 1_000;
/** A datagram may be lost: it is sent again soon. */
const ASK_MS = 300;
const PAUSE_MS = 100;
/** So much of an answer that does not match is shown. */
const SHOWN = 60;

/**
 * Looks whether an instance answers: by opening a TCP connection and closing it again, or by a datagram that it has to
 * answer. Tries until it does, `patienceMs` have passed, or nobody wants to know any more.
 */
export async function probe({ address, probe, patienceMs, isWanted }: Probing): Promise<Probed> {
  if (address.transport === "udp" && probe === undefined) {
    return { reached: true, detail: "ready by its own word; it speaks UDP, and its build has no probe" };
  }
  const tryOnce = probe ? asking(address, probe) : () => connecting(address);
  const begin = performance.now();
  for (let attempts = 1; ; attempts++) {
    const { fault, note = "" } = await tryOnce();
    const ms = Math.round(performance.now() - begin);
    if (fault === undefined) return { reached: true, detail: `reached at attempt ${attempts} after ${ms} ms${note}` };
    if (ms >= patienceMs || !isWanted()) {
      const detail = `${addressText(address)} did not answer in ${attempts} attempts over ${ms} ms (${fault})`;
      return { reached: false, detail };
    }
    await wait(PAUSE_MS);
  }
}

interface Attempt {
  /** Absent when it was reached. */
  readonly fault?: string;
  readonly note?: string;
}

async function connecting({ host, port }: Address): Promise<Attempt> {
  const tried = await tryTcp(host, port, TRY_MS);
  return tried.ok ? {} : { fault: faultText(tried.cause) };
}

function asking({ host, port }: Address, { send, answer: wanted }: BuildProbe): () => Promise<Attempt> {
  const datagram = datagramOf(send);
  const pattern = wanted === undefined ? undefined : outputPattern(wanted);
  // What came last says more than that nothing came this time.
  let unlike: string | undefined;
  return async () => {
    const asked = await askUdp(host, port, datagram, ASK_MS);
    if (!asked.ok) return { fault: unlike ?? faultText(asked.cause) };
    const { answer } = asked;
    if (matches(answer, pattern)) return { note: `, with ${answer.length} bytes` };
    unlike = `the answer ${shown(answer)} is not what its probe expects`;
    return { fault: unlike };
  };
}

export const datagramOf = (send: BuildProbe["send"]): Buffer =>
  "text" in send ? Buffer.from(send.text) : Buffer.from(send.hex, "hex");

/** Each byte is a character for the pattern. */
const matches = (answer: Buffer, pattern: OutputPattern | undefined): boolean =>
  pattern === undefined || pattern.matcher(answer.toString("latin1")).find();

const faultText = (cause: keyof typeof reachTable): string => reachTable[cause].title.toLowerCase();

/** The beginning of an answer, for people: bytes that are no text as dots. */
const shown = (answer: Buffer): string =>
  JSON.stringify(
    answer
      .subarray(0, SHOWN)
      .toString("latin1")
      .replace(/[^\x20-\x7e]/g, "."),
  );
