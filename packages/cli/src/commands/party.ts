import type { PartyView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { playerId } from "../who.ts";

export function addParty(program: Command): void {
  const party = program.command("party").description("list parties, and show who is in one and where");
  party
    .command("list")
    .description("list parties, the oldest first")
    .option("--lobby <name>", "only of this lobby")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 1_000), 100)
    .action(async (options: { limit: number; lobby?: string }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.parties(options), ({ parties, total }) => render(parties, total, screen));
    });
  party
    .command("show")
    .description("show a party: its members, where they are, and who is invited")
    .argument("<party>", "id or code of a party, or name or id of one of its members")
    .action(async (named: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const id = isPartyName(named) ? named : await playerId(operator, named);
      screen.show(await operator.party(id), (one) => renderOne(one, screen));
    });
}

const isPartyName = (named: string) => /^g_[0-9a-z]+$/.test(named) || /^[A-Z0-9]{4}-?[A-Z0-9]{4}$/.test(named);

/** As people read it out: in two halves. */
export const codeText = (code: string): string => `${code.slice(0, 4)}-${code.slice(4)}`;

const leaderOf = ({ members, leader }: PartyView): string => members.find(({ id }) => id === leader)?.name ?? leader;

function render(parties: readonly PartyView[], total: number, { width }: Screen): string[] {
  if (parties.length === 0) return ["No parties. In yh play the word party founds one."];
  const lines = table(
    parties,
    [
      { heading: "PARTY", value: (one) => pc.bold(one.id) },
      { heading: "CODE", value: ({ code }) => codeText(code) },
      { heading: "LEADER", value: leaderOf },
      { heading: "MEMBERS", value: ({ members, maxSize }) => `${members.length} of ${maxSize}`, align: "right" },
      {
        heading: "AWAY",
        value: ({ members }) => String(members.filter(({ presence }) => presence === "away").length),
        align: "right",
      },
      { heading: "INVITED", value: ({ invited = [] }) => String(invited.length), align: "right" },
      { heading: "LOBBY", value: (one) => one.lobby },
    ],
    width,
  );
  const shown = parties.length < total ? `${parties.length} of ${total} parties: raise --limit` : countOf(total);
  return [...lines, pc.dim(shown)];
}

const countOf = (total: number) => `${total} ${total === 1 ? "party" : "parties"}`;

function renderOne(party: PartyView, { width }: Screen): string[] {
  const { id, code, members, maxSize, leader, invited = [], lobby } = party;
  const head = `${pc.bold(codeText(code))} (${id}) of ${lobby}: ${members.length} of ${maxSize}`;
  const lines = table(
    members,
    [
      { heading: "MEMBER", value: ({ name }) => name },
      { heading: "PLAYER", value: (one) => one.id },
      { heading: "PRESENCE", value: ({ presence }) => (presence === "away" ? pc.yellow("away") : "here") },
      { heading: "ROOM", value: ({ room }) => room?.code ?? "-" },
      { heading: "GOES ALONG", value: (one) => (one.id === leader ? "leads" : one.follows ? "yes" : "no") },
    ],
    width,
  );
  const waiting = invited.map(({ name = "an account", by, untilMs }) => {
    const leftS = Math.max(0, Math.round((untilMs - Date.now()) / 1_000));
    return `${by.name} has invited ${name}, for ${leftS} s more.`;
  });
  return [head, ...lines, ...waiting];
}
