import type { HarborView, PartyView } from "@yellow-harbor/protocol";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Table } from "../../parts/table.tsx";
import { span } from "../../parts/time.ts";

interface PartiesProps {
  readonly lobbies: HarborView["lobbies"];
  readonly now: number;
  readonly choose: (player: string) => void;
}

/** Who stays together, and where the others of a party are. */
export function Parties({ lobbies, now, choose }: PartiesProps) {
  const { answer } = useLooks("parties", () => store.operator.parties({ limit: 100 }));
  const parties = answer?.parties ?? [];
  return (
    <Section id="parties" title="Parties" count={plural(answer?.total ?? 0, "party").replace("partys", "parties")}>
      {parties.length === 0 ? (
        <Empty>
          No parties. Players found one with <code>party.open</code>; in <code>yh play</code> the word party does.
        </Empty>
      ) : (
        <Table
          rows={parties}
          idOf={({ id }) => id}
          columns={[
            { heading: "Code", value: ({ code }) => `${code.slice(0, 4)}-${code.slice(4)}`, mono: true },
            { heading: "Members", value: (party) => <Members party={party} choose={choose} /> },
            { heading: "Places", value: ({ members, maxSize }) => `${members.length} of ${maxSize}` },
            { heading: "Invited", value: ({ invited = [] }) => (invited.length === 0 ? "-" : invited.length) },
            { heading: "Lobby", value: ({ lobby }) => lobbies[lobby]?.title ?? lobby },
            { heading: "Since", value: ({ sinceMs }) => span(now - sinceMs) },
          ]}
        />
      )}
    </Section>
  );
}

function Members({ party: { members, leader }, choose }: { party: PartyView; choose: (player: string) => void }) {
  return (
    <ul className="space-y-0.5">
      {members.map(({ id, name, presence, follows, room }) => {
        const marks = [
          id === leader && "leads",
          presence === "away" && "away",
          !follows && "stays behind",
          room && `in ${room.code}`,
        ].filter(Boolean);
        return (
          <li key={id}>
            <button type="button" className="link link-hover" onClick={() => choose(id)}>
              {name}
            </button>
            {marks.length > 0 && <span className="opacity-80"> ({marks.join(", ")})</span>}
          </li>
        );
      })}
    </ul>
  );
}
