import {
  addressKind,
  kindWords,
  type Listening,
  listeningPorts,
  type OwnAddress,
  ownAddresses,
} from "@yellow-harbor/reach";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import { table } from "../output/table.ts";

interface Addresses {
  readonly port: number;
  readonly own: readonly OwnAddress[];
  /** Undefined where the system has no table of them to read. */
  readonly listening: readonly Listening[] | undefined;
  /** What clients have to use, by where they are. */
  readonly use: {
    readonly here: string | null;
    readonly network: readonly string[];
    readonly elsewhere: readonly string[];
  };
  readonly advice: readonly string[];
}

export function addAddress(program: Command): void {
  program
    .command("address")
    .description("list the addresses of this computer, what listens on it, and which one clients have to use")
    .option("--all", "show every port that something listens on, not only the service's")
    .action(async ({ all }: { all?: boolean }, command: Command) => {
      const { screen, url } = contextOf(command);
      const port = Number(new URL(url).port || (url.startsWith("https") ? 443 : 80));
      const found = look(port, all ?? false);
      screen.show(found, (addresses) => lines(addresses, screen.width));
      if (!screen.json) screen.note("next: yh doctor ADDRESS:PORT, from where a player sits");
    });
}

const EVERY = new Set(["0.0.0.0", "::"]);

function look(port: number, all: boolean): Addresses {
  const own = ownAddresses();
  const table = listeningPorts();
  const ours = table?.filter((one) => one.port === port);
  const answers = (address: string) =>
    ours === undefined || ours.some((one) => one.address === address || EVERY.has(one.address));
  const at = (kinds: readonly string[]) =>
    own
      .filter(({ kind, address }) => kinds.includes(kind) && answers(address))
      .map(({ address }) => withPort(address, port));
  const use = {
    here: at(["loopback"])[0] ?? at(["local-network", "public"])[0] ?? null,
    network: at(["local-network"]),
    elsewhere: at(["public"]),
  };
  return { port, own, listening: all ? table : ours, use, advice: adviceOn(port, ours, own, use) };
}

const withPort = (address: string, port: number) =>
  `http://${address.includes(":") ? `[${address}]` : address}:${port}`;

function adviceOn(
  port: number,
  ours: readonly Listening[] | undefined,
  own: readonly OwnAddress[],
  use: Addresses["use"],
): string[] {
  if (ours === undefined) return ["What listens cannot be looked up on this system; `yh doctor` tries the way itself."];
  if (ours.length === 0) return [`Nothing listens on port ${port}: start the service, or name its port with --url.`];
  const advice: string[] = [];
  if (ours.every(({ address }) => addressKind(address) === "loopback")) {
    advice.push(
      "The service listens on a loopback address: nobody outside this computer gets in. --host 0.0.0.0 opens it.",
    );
  }
  if (use.elsewhere.length === 0) {
    const shared = own.some(({ kind }) => kind === "shared");
    advice.push(
      shared
        ? "This computer shares a public address with others of its provider: from outside nobody gets in without a relay or a server elsewhere."
        : `No address here is public-looking: for clients elsewhere the router has to forward port ${port} to this computer, and they use its outer address.`,
    );
  }
  return advice;
}

function lines({ port, own, listening, use, advice }: Addresses, width: number): string[] {
  const nobody = pc.dim("nothing works from there now");
  return [
    ...table(
      own,
      [
        { heading: "ADDRESS", value: ({ address }) => address },
        { heading: "ON", value: ({ on }) => on },
        { heading: "WHO REACHES IT", value: ({ kind }) => kindWords[kind] },
      ],
      width,
    ),
    "",
    `listening             ${listening === undefined ? "cannot be looked up here" : listening.map((one) => `${one.address} port ${one.port}`).join(", ") || `nothing on port ${port}`}`,
    `from this computer    ${use.here ?? nobody}`,
    `from this network     ${use.network.join(", ") || nobody}`,
    `from elsewhere        ${use.elsewhere.join(", ") || nobody}`,
    ...(advice.length > 0 ? ["", ...advice] : []),
  ];
}
