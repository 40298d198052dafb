import type { BanView } from "@yellow-harbor/protocol";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { useMay } from "../../parts/may.tsx";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Table, Verb } from "../../parts/table.tsx";
import { span } from "../../parts/time.ts";

const whom = ({ account, network, everybody }: BanView) =>
  account ?? `${network} (${everybody === true ? "everybody" : "guests"})`;

/** Who may not come in. */
export function Bans({ now, say }: { now: number; say: (error: unknown) => void }) {
  const { answer } = useLooks("bans", () => store.operator.bans());
  const mayLift = useMay("operate");
  const bans = answer?.bans ?? [];
  const lift = (id: string) => void store.operator.liftBan(id).catch(say);
  return (
    <Section id="bans" title="Bans" count={plural(bans.length, "ban")}>
      {bans.length === 0 ? (
        <Empty>
          Nobody is banned. <code>yh player ban NAME</code> bans somebody who is here.
        </Empty>
      ) : (
        <Table
          rows={bans}
          idOf={({ id }) => id}
          columns={[
            { heading: "Whom", value: whom, mono: true },
            { heading: "Since", value: ({ atMs }) => `${span(now - atMs)} ago` },
            {
              heading: "Ends",
              value: ({ untilMs }) => (untilMs === undefined ? "never" : `in ${span(untilMs - now)}`),
            },
            { heading: "By", value: ({ by }) => by },
            { heading: "Reason", value: ({ reason }) => reason ?? "-" },
            {
              heading: "",
              value: ({ id }) =>
                mayLift && (
                  <Verb title="Let them in again" onClick={() => lift(id)}>
                    Lift
                  </Verb>
                ),
            },
          ]}
        />
      )}
    </Section>
  );
}
