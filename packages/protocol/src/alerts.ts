import { z } from "zod";
import { AtMs } from "./basics.ts";

/** What the service raises an alert for by itself, with the threshold and the time it has when nothing else is configured. */
export const alertRules = {
  "harbor-halted": { over: 0, forS: 0, severity: "page", unit: "", about: "Nothing is taken." },
  "journal-slow": {
    over: 0.01,
    forS: 120,
    severity: "page",
    unit: "share of commits over 0.25 s, in 5 minutes",
    about: "Commits take long.",
  },
  "journal-damaged": { over: 0, forS: 0, severity: "look", unit: "", about: "Events of the past do not fit together." },
  "snapshots-fail": {
    over: 0,
    forS: 0,
    severity: "look",
    unit: "snapshots that failed, in 30 minutes",
    about: "Snapshots cannot be made.",
  },
  "disk-nearly-full": {
    over: 0.95,
    forS: 60,
    severity: "page",
    unit: "share of the disk of the data folder",
    about: "The disk of the data folder is nearly full.",
  },
  "loop-held": {
    over: 0.2,
    forS: 120,
    severity: "look",
    unit: "seconds that the event loop is late, p99",
    about: "The process is held up.",
  },
  "nearly-full": {
    over: 0.9,
    forS: 300,
    severity: "look",
    unit: "share of players.limit",
    about: "Nearly as many players as are taken.",
  },
  "players-lost": {
    over: 0.25,
    forS: 0,
    severity: "page",
    unit: "share of connections that were lost, in 5 minutes",
    about: "Many lose their connection.",
  },
  "searches-wait": {
    over: 300,
    forS: 300,
    severity: "look",
    unit: "seconds that somebody has waited in the queue",
    about: "Searches wait long.",
  },
  "matches-undone": {
    over: 0.25,
    forS: 0,
    severity: "look",
    unit: "share of matches, in 15 minutes",
    about: "Matches come to nothing.",
  },
  "travels-fail": {
    over: 0.1,
    forS: 0,
    severity: "page",
    unit: "share of travels, in 10 minutes",
    about: "Travels fail.",
  },
  "pool-full": {
    over: 0.999,
    forS: 60,
    severity: "page",
    unit: "share of the pool's maximum that rooms hold",
    about: "A pool has no instance left to give.",
  },
  "instances-fail": {
    over: 2,
    forS: 0,
    severity: "page",
    unit: "instances in a row that failed before they were open",
    about: "Instances do not come up.",
  },
  "planner-paused": { over: 0, forS: 3_600, severity: "look", unit: "", about: "A planner is paused." },
  "machine-gone": { over: 0, forS: 120, severity: "page", unit: "", about: "A machine cannot be reached." },
  "webhook-late": {
    over: 300,
    forS: 120,
    severity: "look",
    unit: "seconds since the oldest event that waits",
    about: "A webhook does not take what it is told.",
  },
  "webhook-gave-up": {
    over: 0,
    forS: 0,
    severity: "look",
    unit: "events that were put aside",
    about: "Events were put aside.",
  },
  "wrong-keys": {
    over: 50,
    forS: 0,
    severity: "look",
    unit: "wrong keys, in 10 minutes",
    about: "Somebody tries keys.",
  },
  "key-in-two-places": {
    over: 0,
    forS: 0,
    severity: "page",
    unit: "times, in an hour",
    about: "A key may have been stolen.",
  },
} as const satisfies Record<string, AlertRule>;

interface AlertRule {
  /** It is raised while the figure is above this. */
  readonly over: number;
  /** And has been for so many seconds. */
  readonly forS: number;
  readonly severity: "page" | "look";
  readonly unit: string;
  readonly about: string;
}

export type AlertName = keyof typeof alertRules;
export const alertNames = Object.keys(alertRules) as AlertName[];
const AlertNameSchema = z.enum(alertNames as [AlertName, ...AlertName[]]);

export const AlertView = z
  .object({
    alert: AlertNameSchema,
    subject: z.string().optional().meta({ description: "Queue, pool, machine or webhook that it is about." }),
    severity: z.enum(["page", "look"]).meta({ description: "page: wakes somebody; look: can wait for the day." }),
    sinceMs: AtMs.meta({ description: "Since when it is so." }),
    value: z.number(),
    over: z.number().meta({ description: "The value above which it is raised." }),
    text: z.string().meta({ description: "What is so, in words." }),
    remedy: z.string().meta({ description: "What to do." }),
  })
  .meta({ id: "Alert", description: "Something that somebody should look at." });
export type AlertView = z.infer<typeof AlertView>;

export const AlertList = z
  .object({ alerts: z.array(AlertView).meta({ description: "The most urgent first." }) })
  .meta({ id: "AlertList" });
export type AlertList = z.infer<typeof AlertList>;
