import { type AlertName, alertNames, alertRules } from "@yellow-harbor/protocol";
import { z } from "zod";

const ruleOf = (name: AlertName) => {
  const { over, forS, unit, about } = alertRules[name];
  const figure = unit === "" ? "Raised when it is so." : `Raised above this: ${unit}.`;
  return z
    .strictObject({
      over: z.number().min(0).max(1e12).default(over).meta({ description: figure }),
      forS: z.number().min(0).max(604_800).default(forS).meta({ description: "Seconds that it has to be so." }),
      off: z.boolean().default(false).meta({ description: "Never raised." }),
    })
    .prefault({})
    .meta({ description: about });
};

/** What the service raises alerts for by itself. */
export const Alerts = z
  .strictObject(
    Object.fromEntries(alertNames.map((name) => [name, ruleOf(name)])) as Record<AlertName, ReturnType<typeof ruleOf>>,
  )
  .prefault({});
export type AlertsConfig = z.output<typeof Alerts>;
