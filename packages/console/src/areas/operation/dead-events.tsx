import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { useMay } from "../../parts/may.tsx";
import { Empty, plural } from "../../parts/section.tsx";
import { Table, Verb } from "../../parts/table.tsx";
import { span } from "../../parts/time.ts";

const SHOWN = 20;

interface DeadEventsProps {
  readonly webhook: string;
  readonly now: number;
  readonly say: (text: string) => void;
  readonly fault: (error: unknown) => void;
}

/** What was put aside for a webhook, the oldest first; sent again or forgotten by whoever may. */
export function DeadEvents({ webhook, now, say, fault }: DeadEventsProps) {
  const { answer } = useLooks(`dead ${webhook}`, () => store.operator.deadEvents(webhook, { limit: SHOWN }));
  const mayOperate = useMay("operate");
  const events = answer?.events ?? [];
  const resend = (numbers?: number[]) =>
    void store.operator
      .resendEvents(webhook, numbers)
      .then(({ events: count }) => say(`${plural(count, "event")} of ${webhook} will be sent again.`), fault);
  const discard = (numbers?: number[]) =>
    void store.operator
      .discardEvents(webhook, numbers)
      .then(({ events: count }) => say(`${plural(count, "event")} of ${webhook} forgotten.`), fault);
  if (events.length === 0)
    return (
      <div className="mt-3">
        <Empty>Nothing is put aside for {webhook}.</Empty>
      </div>
    );
  return (
    <article aria-label={`Put aside for ${webhook}`} className="mt-3 space-y-2">
      <header className="flex items-center gap-3 text-sm">
        <span>
          Put aside for <strong>{webhook}</strong>, the oldest first
          {answer?.next === undefined ? "" : `: ${SHOWN} of more`}
        </span>
        {mayOperate && (
          <>
            <Verb title="Send all of them again, in their order" onClick={() => resend()}>
              Send all again
            </Verb>
            <Verb title="Forget all of them for good" onClick={() => discard()}>
              Forget all
            </Verb>
          </>
        )}
      </header>
      <Table
        rows={events}
        idOf={({ number }) => number}
        columns={[
          { heading: "Number", value: ({ number }) => number },
          { heading: "Event", value: ({ type }) => type },
          { heading: "Subject", value: ({ subject }) => subject, mono: true },
          { heading: "Happened", value: ({ atMs }) => `${span(now - atMs)} ago` },
          { heading: "Tried", value: ({ attempts }) => plural(attempts, "time") },
          { heading: "Why", value: ({ why, again }) => (again ? "being sent again" : why) },
          {
            heading: "",
            value: ({ number }) =>
              mayOperate && (
                <span className="flex gap-2">
                  <Verb title="Send it again" onClick={() => resend([number])}>
                    Again
                  </Verb>
                  <Verb title="Forget it for good" onClick={() => discard([number])}>
                    Forget
                  </Verb>
                </span>
              ),
          },
        ]}
      />
    </article>
  );
}
