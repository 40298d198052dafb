import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { ROOT } from "./imports.ts";

/** Words that this project used before 0.2, and what it says since. One meaning a word, and the trade's word where it has one. */
const retired: readonly (readonly [before: RegExp, now: string])[] = [
  [/\bpictures?\b/i, "state; of a file: image, screenshot"],
  [/\bnews\b|News(?=[A-Z]|\b)/, "update"],
  [/\b[Bb]eats?\b|\bbeatEveryMs\b/, "heartbeat"],
  [/(?<!old-|Old )\b[Ss]lips?\b/, "protocol error"],
  [/\b(put|puts|putting)[- ]out\b|putOut|PutOut/i, "kick"],
  [/baton/i, "turn"],
  [/\bseeks?\b|\bseeking\b|\bsought\b|seekBy/i, "quick-join"],
  [/\b(room\.(enter|take|attend|write|erase)|queue\.(enter|look))\b(?!\()/, "the requests of the players' protocol"],
  [/\blobby\.(stood|stand|step-out|say)\b|\bstander|\bstand(s|ing)? in (a|the|its) lobby\b/i, "be in a lobby"],
  [/\b(sayings?|talk-(off|too-fast))\b/i, "chat"],
  [/\bRoomWays\b|\bwaysOf\b|\bways: Room/, "policy"],
  [/\b(preset|leastPlayers|failuresMost)s?\b|[a-z]Most\b|[A-Z]_MOST\b|[A-Z]_LEAST\b/, "default, min, max"],
  [/half below|\d+ of \d+ below|nine of ten/, "median, p90, p99"],
  [/settleMs|asideMs|set[- ]aside|isAside/, "cooldownMs, draining, reclaimMs"],
  [/hand-outs?\b|handOut|handed out\b|instance\.claimed/i, "allocation"],
  [
    /orderedAtMs|ordered_at|MatchOrder|StartOrder|TravelOrder|order-(ahead|unknown)|took-orders|take-orders/,
    "launch, instruction",
  ],
  [/\bpulses?\b|pulseEveryMs|PulseReply/i, "poll"],
  [/take-match/, "match-assigned"],
  [/farewell/i, "goodbye"],
  [/pricePerS\b|cost per S\b/, "pricePerSecond"],
  [/\bfillings?\b|settle-filling|stop-filling|whenLeft: "?fill\b/i, "backfill"],
  [/note-queues|mind-leaver|forgo(ne)?\b/, "an outcome, such as queue.member-left"],
  [/[Hh]appenings?\b|\bOutlets\b|speakEntry/, "AppliedEvent, OperatorEvent, Deliveries"],
  [/\bMoment\b|\bsoundness\b|\bfaultsOf\b/, "DecisionContext, invariants, invariantViolations"],
  [/\b(Comer|Seated|ToldAlone)\b|PassingDesk|ShortPath|short path/, "what each of them is"],
  [/\blookBack\b|\bLookBack\b|\bArchive\b/, "history"],
  [/Night call/, "Runbook"],
  [/puts? up with/, "accepts"],
];

const files = execFileSync("git", ["ls-files"], { cwd: ROOT, encoding: "utf8" })
  .split("\n")
  .filter((name) => /\.(ts|tsx|mjs|md|ya?ml|json|py|css|html|jsonl)$/.test(name))
  .filter((name) => !/^(CHANGELOG\.md|package-lock\.json|biome\.json|tests\/words\.test\.ts)$/.test(name));

const texts = files.map((name) => ({ name, text: readFileSync(join(ROOT, name), "utf8") }));

describe("the words of the project", () => {
  it.each(retired)("say nothing that matches %s: it is %s", (before) => {
    const found = texts.flatMap(({ name, text }) =>
      // Line by line only where there is something to be found.
      before.test(text)
        ? text
            .split("\n")
            .flatMap((line, n) => (before.test(line) ? [`${name}:${n + 1}: ${line.trim().slice(0, 120)}`] : []))
        : [],
    );
    expect(found).toEqual([]);
  });
});
