import { ProblemError } from "@yellow-harbor/client";
import type { BanView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

interface AddOptions {
  readonly account?: string;
  readonly network?: string;
  readonly everybody?: boolean;
  readonly reason?: string;
  readonly hours?: number;
}

export function addBan(program: Command): void {
  const ban = program.command("ban").description("list, add and lift bans from the harbor");
  ban
    .command("list")
    .description("list bans, whom they concern, why, and until when")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 500), 100)
    .action(async (options: { limit: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.bans(options), ({ bans, next }) => render(bans, next !== undefined, screen));
    });
  ban
    .command("add")
    .description("ban an account or a network; yh player ban names somebody who is here")
    .option("--account <account>", "such as game:4711")
    .option("--network <network>", "address or network, such as 192.0.2.0/24; guests alone unless --everybody")
    .option("--everybody", "with --network: players with an account of the game too")
    .option("--reason <text>", "told to whom it concerns")
    .option("--hours <number>", "hours until it ends; never when left out", wholeNumber("--hours", 1, 87_600))
    .action(async ({ account, network, everybody = false, ...how }: AddOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      if ((account === undefined) === (network === undefined)) {
        throw ProblemError.of("usage", "Give either --account or --network.");
      }
      const whom = account === undefined ? { network: network ?? "", everybody } : { account };
      screen.show(await operator.createBan(whom, how), banned);
    });
  ban
    .command("lift")
    .description("lift a ban")
    .argument("<ban>", "id of the ban; yh ban list shows them")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.liftBan(id), (one) => [`The ban of ${whom(one)} is lifted.`]);
    });
}

const whom = ({ account, network, everybody }: BanView): string =>
  account ?? `${network} (${everybody === true ? "everybody" : "guests"})`;

export const banned = (ban: BanView): string[] => [
  ...(ban.network === undefined
    ? []
    : [
        `It concerns everybody who comes from ${ban.network}${ban.everybody === true ? "" : " as a guest"}; who was here was kicked.`,
      ]),
  `${whom(ban)} is banned ${ban.untilMs === undefined ? "for good" : `until ${when(ban.untilMs, Date.now(), true)}`}. yh ban lift ${ban.id} lifts it.`,
];

function render(bans: readonly BanView[], hasMore: boolean, { width, absolute }: Screen): string[] {
  if (bans.length === 0)
    return ["Nobody is banned. yh player ban NAME, or yh ban add --account game:4711, bans somebody."];
  const now = Date.now();
  const lines = table(
    bans,
    [
      { heading: "BAN", value: (one) => pc.bold(one.id) },
      { heading: "WHOM", value: whom },
      { heading: "SINCE", value: (one) => when(one.atMs, now, absolute) },
      { heading: "UNTIL", value: (one) => (one.untilMs === undefined ? "for good" : when(one.untilMs, now, absolute)) },
      { heading: "BY", value: (one) => one.by },
      { heading: "REASON", value: (one) => one.reason ?? "-" },
    ],
    width,
  );
  const count = `${bans.length} ${bans.length === 1 ? "ban" : "bans"}`;
  return [...lines, pc.dim(hasMore ? `${count}, and more: raise --limit` : count)];
}
