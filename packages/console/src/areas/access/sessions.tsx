import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Table, Verb } from "../../parts/table.tsx";
import { span } from "../../parts/time.ts";

/** Browsers that are logged in. */
export function Sessions({ now, say }: { now: number; say: (error: unknown) => void }) {
  const { answer } = useLooks("sessions", () => store.operator.sessions());
  const sessions = answer?.sessions ?? [];
  const end = (id: string) => void store.operator.endSession(id).catch(say);
  return (
    <Section id="sessions" title="Sessions" count={plural(sessions.length, "browser")}>
      {sessions.length === 0 ? (
        <Empty>No browser is logged in. Here none has to be: whoever is on this computer may look in.</Empty>
      ) : (
        <Table
          rows={sessions}
          idOf={({ id }) => id}
          columns={[
            { heading: "Name", value: ({ name, isOwn }) => (isOwn ? `${name} (this one)` : name) },
            { heading: "Role", value: ({ role }) => role },
            { heading: "From", value: ({ from }) => from, mono: true },
            { heading: "Since", value: ({ createdAtMs }) => `${span(now - createdAtMs)} ago` },
            { heading: "Last used", value: ({ lastUsedAtMs }) => `${span(now - lastUsedAtMs)} ago` },
            { heading: "Ends", value: ({ endsAtMs }) => `in ${span(endsAtMs - now)}` },
            {
              heading: "",
              value: ({ id, isOwn }) =>
                isOwn ? null : (
                  <Verb title="Its browser has to log in again" onClick={() => end(id)}>
                    End
                  </Verb>
                ),
            },
          ]}
        />
      )}
    </Section>
  );
}
