import type { AlertView } from "@yellow-harbor/protocol";
import { BellRing, Eye } from "lucide-react";
import { store } from "../live/use-live.ts";
import { useLooks } from "../live/use-looks.ts";
import { span } from "./time.ts";

/** What somebody should look at, with what to do; nothing while all is well. */
export function Alerts({ now }: { now: number }) {
  const { answer } = useLooks("alerts", () => store.operator.alerts());
  if (answer === undefined || answer.alerts.length === 0) return null;
  return (
    <ul id="alerts" aria-label="Alerts" className="space-y-1.5">
      {answer.alerts.map((alert) => (
        <Alert key={`${alert.alert} ${alert.subject ?? ""}`} alert={alert} now={now} />
      ))}
    </ul>
  );
}

function Alert({ alert: { severity, text, remedy, sinceMs }, now }: { alert: AlertView; now: number }) {
  const isUrgent = severity === "page";
  const Icon = isUrgent ? BellRing : Eye;
  return (
    <li
      className={`flex gap-3 rounded-box border-l-4 bg-base-200 px-4 py-2 text-sm ${isUrgent ? "border-error" : "border-warning"}`}
    >
      <Icon size={16} aria-hidden className={`mt-0.5 shrink-0 ${isUrgent ? "text-error" : "text-warning"}`} />
      <span>
        <span className="font-semibold">{isUrgent ? "Alert" : "Look"}</span>
        {": "}
        {text}{" "}
        <span className="opacity-70">
          For {span(now - sinceMs)}. {remedy.replaceAll("`", "")}
        </span>
      </span>
    </li>
  );
}
