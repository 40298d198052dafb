import type { WebhookView } from "@yellow-harbor/protocol";
import { CircleCheck, CircleDot, CircleX } from "lucide-react";
import { useState } from "react";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { useMay } from "../../parts/may.tsx";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Table, Verb } from "../../parts/table.tsx";
import { span } from "../../parts/time.ts";
import { DeadEvents } from "./dead-events.tsx";

interface WebhooksProps {
  readonly now: number;
  readonly say: (text: string) => void;
  readonly fault: (error: unknown) => void;
}

/** Who is told what happens, how that goes, and what could not be sent. */
export function Webhooks({ now, say, fault }: WebhooksProps) {
  const { answer } = useLooks("webhooks", () => store.operator.webhooks());
  const [chosen, setChosen] = useState<string>();
  const mayOperate = useMay("operate");
  const webhooks = answer?.webhooks ?? [];
  const test = (name: string) =>
    void store.operator
      .testWebhook(name)
      .then(({ ok, tookMs, text }) => say(`${name}: ${ok ? "taken" : "not taken"} in ${tookMs} ms: ${text}`), fault);
  if (webhooks.length === 0)
    return (
      <Section id="webhooks" title="Webhooks" count="none">
        <Empty>
          Nobody is told what happens. <code>webhooks</code> of the configuration adds one; <code>yh config apply</code>{" "}
          takes it.
        </Empty>
      </Section>
    );
  return (
    <Section id="webhooks" title="Webhooks" count={plural(webhooks.length, "webhook")}>
      <Table
        rows={webhooks}
        idOf={({ name }) => name}
        columns={[
          { heading: "Webhook", value: ({ name }) => name },
          { heading: "State", value: (one) => <State webhook={one} /> },
          { heading: "Sent", value: ({ sent }) => sent },
          { heading: "Waiting", value: (one) => waitingOf(one, now) },
          { heading: "Put aside", value: ({ dead }) => <span className={dead > 0 ? "text-error" : ""}>{dead}</span> },
          { heading: "Events", value: ({ events }) => events.join(" ") },
          { heading: "Address", value: ({ url }) => url, mono: true },
          {
            heading: "",
            value: ({ name, dead }) => (
              <span className="flex gap-2">
                {mayOperate && (
                  <Verb title="Send a test event now, once" onClick={() => test(name)}>
                    Test
                  </Verb>
                )}
                {dead > 0 && (
                  <Verb title="What could not be sent" onClick={() => setChosen(chosen === name ? undefined : name)}>
                    {chosen === name ? "Close" : "Look"}
                  </Verb>
                )}
              </span>
            ),
          },
        ]}
      />
      {webhooks.map((one) => (
        <Trouble key={one.name} webhook={one} now={now} />
      ))}
      {chosen !== undefined && <DeadEvents key={chosen} webhook={chosen} now={now} say={say} fault={fault} />}
    </Section>
  );
}

const looks = {
  idle: { icon: CircleCheck, colour: "text-success" },
  sending: { icon: CircleDot, colour: "" },
  failing: { icon: CircleX, colour: "text-error" },
} as const;

function State({ webhook: { state } }: { webhook: WebhookView }) {
  const { icon: Icon, colour } = looks[state];
  return (
    <span className={`flex items-center gap-1 ${colour}`}>
      <Icon size={14} aria-hidden /> {state}
    </span>
  );
}

const waitingOf = ({ waiting, oldestAtMs }: WebhookView, now: number) =>
  oldestAtMs === undefined ? String(waiting) : `${waiting}, the oldest for ${span(now - oldestAtMs)}`;

/** Why one does not get on, and when it is tried again. */
function Trouble({
  webhook: { name, state, lastFailure, nextAttemptAtMs },
  now,
}: {
  webhook: WebhookView;
  now: number;
}) {
  if (state !== "failing" || lastFailure === undefined) return null;
  const next =
    nextAttemptAtMs === undefined ? "" : ` The next attempt is in ${span(Math.max(0, nextAttemptAtMs - now))}.`;
  return (
    <p className="mt-2 text-sm text-warning">
      {name}: the last attempt came to “{lastFailure.text}”, {span(now - lastFailure.atMs)} ago.{next}
    </p>
  );
}
