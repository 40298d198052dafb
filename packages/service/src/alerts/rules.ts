import type { AlertName } from "@yellow-harbor/protocol";
import type { Counts, ReadingHistory, Readings } from "./readings.ts";

/** One figure that a rule looks at. */
export interface Figure {
  readonly subject?: string;
  readonly value: number;
  readonly text: string;
  readonly remedy: string;
}

type Rule = (now: Readings, history: ReadingHistory) => readonly Figure[];

const MINUTE_MS = 60_000;
/** Shares of fewer say nothing. */
const ENOUGH = 4;

const percent = (share: number) => `${Math.round(share * 1_000) / 10} %`;
const duration = (ms: number) => (ms < 120_000 ? `${Math.round(ms / 1_000)} s` : `${Math.round(ms / 60_000)} min`);
const shareOf = (part: number, all: number) => (part < ENOUGH ? 0 : part / Math.max(1, all));
const counted = (count: number, what: string) => `${count} ${what}${count === 1 ? "" : "s"}`;
const since = (count: (counts: Counts) => number) => (now: Counts, then: Counts) => count(now) - count(then);

/** What each alert looks at. Its threshold and its patience are the configuration's. */
export const rules: { readonly [N in AlertName]: Rule } = {
  "harbor-halted": ({ halted }) => (halted ? [{ value: 1, ...halted }] : []),

  "journal-slow": (now, history) => {
    const commits = history.countedIn(
      5 * MINUTE_MS,
      now,
      since((counts) => counts.commits),
    );
    const slow = history.countedIn(
      5 * MINUTE_MS,
      now,
      since((counts) => counts.slowCommits),
    );
    return [
      {
        value: shareOf(slow, commits),
        text: `${slow} of ${counted(commits, "commit")} took more than 0.25 s in the last 5 minutes.`,
        remedy: "Every reply waits for its commit. See who else writes to the disk of the data folder.",
      },
    ];
  },

  "journal-damaged": ({ journalFault }) =>
    journalFault === undefined
      ? []
      : [
          {
            value: 1,
            text: `Looking back does not go past a fault: ${journalFault}.`,
            remedy: "Play goes on. Look at the disk, and make a backup with `yh backup`.",
          },
        ],

  "snapshots-fail": (now, history) => {
    const failed = history.countedIn(
      30 * MINUTE_MS,
      now,
      since((counts) => counts.snapshotFailures),
    );
    return [
      {
        value: failed,
        text: `${counted(failed, "snapshot")} could not be made in the last 30 minutes.`,
        remedy: "The log says why. Until one is made a start takes longer, and the journal grows.",
      },
    ];
  },

  "disk-nearly-full": ({ diskUsed }) =>
    diskUsed === undefined
      ? []
      : [
          {
            value: diskUsed,
            text: `The disk of the data folder is used to ${percent(diskUsed)}.`,
            remedy:
              "Make room: once it is full nothing is taken. journal.keepEvents and output.keepBytes say how much is kept.",
          },
        ],

  "loop-held": ({ loopLagS }) => [
    {
      value: loopLagS,
      text: `The process is held up for ${Math.round(loopLagS * 1_000)} ms at a time (p99).`,
      remedy: "See the load of the machine, whether it swaps, and how many wait in the queues.",
    },
  ],

  "nearly-full": ({ players: { count, limit } }) => [
    {
      value: count / limit,
      text: `${count} of the ${limit} players that are taken are here or away.`,
      remedy: "Raise players.limit, or send newcomers elsewhere.",
    },
  ],

  "players-lost": (now, history) => {
    const lost = history.countedIn(
      5 * MINUTE_MS,
      now,
      since((counts) => counts.playersLost),
    );
    return [
      {
        value: lost < 20 ? 0 : lost / Math.max(1, now.connections + lost),
        text: `${lost} players have lost their connection in the last 5 minutes; ${now.connections} are connected.`,
        remedy: "See the network, the proxy before the service, and whether a client was released.",
      },
    ];
  },

  "searches-wait": ({ atMs, queues }) =>
    queues.flatMap(({ id, oldestSinceMs }) => {
      if (oldestSinceMs === undefined) return [];
      const waitedMs = atMs - oldestSinceMs;
      return [
        {
          subject: id,
          value: waitedMs / 1_000,
          text: `Somebody has waited for ${duration(waitedMs)} in queue ${id}.`,
          remedy: `\`yh queue show ${id}\` lists who waits, and \`yh explain ticket\` says why.`,
        },
      ];
    }),

  "matches-undone": (now, history) =>
    Object.keys(now.counts.matchesMade).map((queue) => {
      const of = (counts: Readonly<Record<string, number>>) => counts[queue] ?? 0;
      const made = history.countedIn(
        15 * MINUTE_MS,
        now,
        since(({ matchesMade }) => of(matchesMade)),
      );
      const undone = history.countedIn(
        15 * MINUTE_MS,
        now,
        since(({ matchesUndone }) => of(matchesUndone)),
      );
      return {
        subject: queue,
        value: shareOf(undone, made),
        text: `${undone} of ${counted(made, "match")} of queue ${queue} came to nothing in the last 15 minutes.`.replace(
          "matchs",
          "matches",
        ),
        remedy: "`yh explain match` says why one was undone; see whether instances can be had.",
      };
    }),

  "travels-fail": (now, history) => {
    const all = history.countedIn(
      10 * MINUTE_MS,
      now,
      since((counts) => counts.travels),
    );
    const failed = history.countedIn(
      10 * MINUTE_MS,
      now,
      since((counts) => counts.travelsFailed),
    );
    return [
      {
        value: shareOf(failed, all),
        text: `${failed} of ${counted(all, "travel")} failed in the last 10 minutes.`,
        remedy: "`yh watch` shows why each fails; docs/problems.md has what the codes mean.",
      },
    ];
  },

  "pool-full": ({ pools }) =>
    pools.map(({ id, held, max, idle }) => ({
      subject: id,
      value: idle > 0 ? 0 : held / max,
      text: `Rooms hold ${held} of the ${max} instances that pool ${id} may run.`,
      remedy: `Rooms wait for one. Raise pools.${id}.max where the machines have room for more.`,
    })),

  "instances-fail": ({ pools }) =>
    pools.map(({ id, failures }) => ({
      subject: id,
      value: failures,
      text: `The last ${counted(failures, "instance")} of pool ${id} failed before being open.`,
      remedy:
        "`yh instance list --ended` and `yh instance logs` show why; `yh build roll-back` takes a new version back.",
    })),

  "planner-paused": ({ pools }) =>
    pools.map(({ id, mode }) => ({
      subject: id,
      value: mode === "paused" ? 1 : 0,
      text: `The planner of pool ${id} is paused.`,
      remedy: `\`yh pool resume ${id}\` lets it go on.`,
    })),

  "machine-gone": ({ machines }) =>
    machines.map(({ id, isThere, why }) => ({
      subject: id,
      value: isThere ? 0 : 1,
      text: `Machine ${id} cannot be reached${why === undefined ? "" : `: ${why}`}.`,
      remedy: "See whether `yh agent` runs on it. Nothing is started there; what runs there goes on.",
    })),

  "webhook-late": ({ atMs, webhooks }) =>
    webhooks.flatMap(({ name, oldestAtMs, lastFailure }) => {
      if (oldestAtMs === undefined) return [];
      return [
        {
          subject: name,
          value: (atMs - oldestAtMs) / 1_000,
          text: `Webhook ${name} has not taken what happened ${duration(atMs - oldestAtMs)} ago${lastFailure ? `: ${lastFailure.text}` : "."}`,
          remedy: `\`yh webhook test ${name}\` tries it now.`,
        },
      ];
    }),

  "webhook-gave-up": ({ webhooks }) =>
    webhooks.map(({ name, dead }) => ({
      subject: name,
      value: dead,
      text: `${counted(dead, "event")} ${dead === 1 ? "was" : "were"} put aside for webhook ${name}.`,
      remedy: `\`yh webhook dead ${name}\` says why; \`yh webhook resend ${name}\` or \`yh webhook discard ${name}\`.`,
    })),

  "wrong-keys": (now, history) => {
    const wrong = history.countedIn(
      10 * MINUTE_MS,
      now,
      since((counts) => counts.wrongKeys),
    );
    return [
      {
        value: wrong,
        text: `${counted(wrong, "wrong key")} ${wrong === 1 ? "was" : "were"} shown in the last 10 minutes.`,
        remedy: "`yh status` has the address that they come from. They are slowed down; close the port to strangers.",
      },
    ];
  },

  "key-in-two-places": (now, history) => {
    const times = history.countedIn(
      60 * MINUTE_MS,
      now,
      since((counts) => counts.keysInTwoPlaces),
    );
    return [
      {
        value: times,
        text: `A key of an instance or a machine was used from two addresses, ${counted(times, "time")} in the last hour.`,
        remedy: "`yh audit` says whose. End the instance, or give the machine another token.",
      },
    ];
  },
};
