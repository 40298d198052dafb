import { z } from "zod";

/** What is known about a way that does not work. One row for each cause, in one table: commands and SDK say the same. */
interface ReachWords {
  readonly title: string;
  /** What to do about it. */
  readonly todo: string;
}

export const reachTable = {
  "name-unknown": {
    title: "The name is not known",
    todo: "check how it is written; a name of the local network is known in that network alone",
  },
  refused: {
    title: "Nothing listens there",
    todo: "check that the service runs and that the port is its own; a service on 127.0.0.1 is there for its own computer alone",
  },
  "no-answer": {
    title: "No answer comes",
    todo: "a firewall drops it, the port is not forwarded, or the address is another's; open the port, or use the address of the right network",
  },
  "no-route": {
    title: "There is no way there",
    todo: "the address belongs to a network that this computer is not in; use a public address or join that network",
  },
  silent: {
    title: "Something takes connections there and says nothing",
    todo: "it is stuck, still starting, or waits for another protocol; check that the port is the service's and look at its log",
  },
  "closed-early": {
    title: "The connection is closed at once",
    todo: "something between here and there cuts it, or the service is stopping; try again, then look at proxies",
  },
  "tls-missing": {
    title: "It does not speak TLS",
    todo: "use http:// or ws://, or put a proxy with a certificate in front of it",
  },
  "tls-unexpected": {
    title: "It speaks TLS",
    todo: "use https:// or wss://",
  },
  "tls-untrusted": {
    title: "Its certificate is not trusted",
    todo: "use the name that the certificate is for, renew it, or have its authority trusted",
  },
  "wrong-protocol": {
    title: "Something else answers there",
    todo: "check the port: a game server, a database or another web server has it",
  },
  "no-upgrade": {
    title: "WebSockets do not get through",
    todo: "have the proxy pass on Upgrade and Connection for /v1/play",
  },
  "wire-mismatch": {
    title: "It speaks another wire version",
    todo: "update whichever of the two is older",
  },
  "build-mismatch": {
    title: "It does not let this build in",
    todo: "update the game, or add the build to players.builds",
  },
  unexplained: {
    title: "The connection does not come about",
    todo: "`yh doctor` looks at the way step by step; browsers do not tell why",
  },
} as const satisfies Record<string, ReachWords>;

export type ReachCause = keyof typeof reachTable;

/** The cause in a sentence, with what to do. */
export const reachText = (cause: ReachCause): string => `${reachTable[cause].title}: ${reachTable[cause].todo}.`;

/** How errors of sockets, TLS and HTTP name themselves, by code or message, on Node. */
const signs: readonly (readonly [RegExp, ReachCause])[] = [
  [/ENOTFOUND|EAI_AGAIN|EAI_NONAME/, "name-unknown"],
  [/ECONNREFUSED/, "refused"],
  [/ETIMEDOUT|timed out|timeout/i, "no-answer"],
  [/EHOSTUNREACH|ENETUNREACH|EADDRNOTAVAIL/, "no-route"],
  [/CERT_|certificate|ERR_TLS|self.signed|UNABLE_TO/i, "tls-untrusted"],
  [/wrong version number|packet length too long|EPROTO|SSL routines/i, "tls-missing"],
  [/Unexpected server response: \d\d\d/, "no-upgrade"],
  [/Parse Error|HPE_|Invalid (Upgrade|Sec-WebSocket)|invalid status/i, "wrong-protocol"],
  [/ECONNRESET|EPIPE|socket hang up/, "closed-early"],
];

/** What an error of connecting comes from, as far as it tells. */
export function reachCauseOf(error: unknown): ReachCause {
  const { code = "", message = "" } = (error ?? {}) as { code?: unknown; message?: unknown };
  const text = `${String(code)} ${String(message)}`;
  return signs.find(([sign]) => sign.test(text))?.[1] ?? "unexplained";
}

export const AboutView = z
  .object({
    harbor: z.string(),
    version: z.string(),
    wire: z.int(),
    accepts: z.array(z.string()).meta({ description: "Builds of game clients that are accepted." }),
    seenAs: z.string().meta({ description: "The address that the request comes from, as the service sees it." }),
  })
  .meta({ id: "About", description: "What a client has to know before it connects." });
export type AboutView = z.infer<typeof AboutView>;
