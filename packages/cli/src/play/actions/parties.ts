import { type PlayerClient, ProblemError } from "@yellow-harbor/client";
import type { PartyView } from "@yellow-harbor/protocol";
import { type Actions, type Done, quiet, wrong } from "./action.ts";
import { invited } from "./inviting.ts";
import { partyLines } from "./party-text.ts";
import { broughtBy } from "./search.ts";

const PARTY = "party [leave|bring|follow|stay] [skill=1500 ...] [to:REGION=22 ...]";
const JOIN = "join-party CODE|NAME";

/** Players who stay together. */
export const partyActions = {
  party: {
    usage: PARTY,
    about: "found a party, show it, or say what you bring to its searches; leave it; bring the others into your room",
    run: async (player, words) => {
      const [verb = ""] = words;
      if (verb === "leave") return quiet(player.parties.leave());
      if (verb === "bring") return brought(player);
      if (verb === "follow" || verb === "stay") return shown(player.parties.set({ follows: verb === "follow" }));
      const own = broughtBy(words, PARTY);
      if (player.parties.own === undefined) return shown(player.parties.open(own));
      return words.length === 0 ? said(player.parties.own) : shown(player.parties.set(own));
    },
  },
  "join-party": {
    usage: JOIN,
    about: "join a party by its code, or the one that somebody invites you into, by that one's name",
    run: async (player, words) => {
      const typed = words.join(" ");
      if (typed === "") throw wrong(JOIN);
      const by = player.parties.invitations.find(
        (one) => one.by.name.toLocaleLowerCase() === typed.toLocaleLowerCase(),
      );
      return shown(player.parties.join(by ? { party: by.party } : { code: typed }));
    },
  },
  "invite-party": {
    usage: "invite-party NAME|PLAYER|ISSUER:ACCOUNT",
    about: "invite somebody into the party; by name only those whom you have met",
    run: (player, words) =>
      quiet(player.parties.invite(invited(player, words.join(" "), "invite-party NAME|PLAYER|ISSUER:ACCOUNT"))),
  },
  "kick-party": {
    usage: "kick-party NAME",
    about: "remove a member from the party (leader)",
    run: (player, words) => quiet(player.parties.kick(partyMember(player, words.join(" "), "kick-party NAME"))),
  },
  lead: {
    usage: "lead NAME",
    about: "have another member lead the party (leader)",
    run: (player, words) => quiet(player.parties.handOver(partyMember(player, words.join(" "), "lead NAME"))),
  },
} satisfies Actions;

async function brought(player: PlayerClient): Promise<Done> {
  const result = await player.parties.bring();
  const many = result.came.length;
  return {
    result,
    text: [many === 0 ? "Nobody has come along." : `${many} ${many === 1 ? "has" : "have"} come along.`],
  };
}

const shown = async (asked: Promise<{ readonly party: PartyView }>): Promise<Done> => said((await asked).party);

const said = (party: PartyView): Done => ({ result: party, text: partyLines(party) });

function partyMember(player: PlayerClient, name: string, usage: string): string {
  if (name === "") throw wrong(usage);
  const members = player.parties.own?.members ?? [];
  const found = members.filter((one) => one.id === name || one.name.toLocaleLowerCase() === name.toLocaleLowerCase());
  const [first, second] = found;
  if (first === undefined) throw ProblemError.of("member-unknown", `Nobody in your party is called ${name}.`);
  if (second !== undefined) throw ProblemError.of("usage", `Several are called ${name}; give the id.`);
  return first.id;
}
