import { type ConfigName, timeText } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type PoolsContext, refuse } from "../model/decision.ts";
import type { PlanCommand } from "../model/planner/commands.ts";
import type { Done } from "../model/replies.ts";
import { newId } from "../model/stamp.ts";
import type { PlanWindow } from "../planning/plan.ts";
import { knownOf } from "./demand.ts";

type Doing<K extends PlanCommand["do"]> = Extract<PlanCommand, { do: K }>;

/** So many times of operators are kept for one pool. */
const WARM_MAX = 32;

const SCHEDULED = "schedule-";

const isScheduled = ({ id }: PlanWindow): boolean => id.startsWith(SCHEDULED);

/** The id of the time that comes of an entry of a schedule, by its place in it. */
export const scheduledId = (entry: number): string => `${SCHEDULED}${entry + 1}`;

const setWindows = (
  { state, at }: PoolsContext,
  pool: ConfigName,
  windows: readonly PlanWindow[],
  why: string,
): Decision<Done> => {
  const reply = (): Done => ({});
  const left = windows.filter(({ untilMs }) => untilMs > at).sort((a, b) => a.fromMs - b.fromMs);
  if (JSON.stringify(left) === JSON.stringify(knownOf(state, pool).windows)) return accept([], { reply });
  return accept([{ kind: "plan.windows-set", pool, windows: left, why }], { reply });
};

/** What the schedule says now, beside the times of operators. */
export function schedule(context: PoolsContext, { pool, windows }: Doing<"plan.schedule">): Decision {
  if (!context.rules.pools.has(pool)) return nothingToDo;
  const others = knownOf(context.state, pool).windows.filter((one) => !isScheduled(one));
  return setWindows(context, pool, [...windows, ...others], "by its schedule");
}

export function warm(
  context: PoolsContext,
  { pool, fromMs, lastsMs, min, spare, reason }: Doing<"plan.warm">,
): Decision<Done> {
  const { at, random, state, rules } = context;
  const begins = fromMs ?? at;
  const untilMs = begins + lastsMs;
  if (untilMs <= at) {
    const detail = `That time ended at ${timeText(untilMs)}; give one that is now or to come.`;
    return refuse("request-invalid", detail, { fields: [{ path: "fromMs", message: "expected a time to come" }] });
  }
  const known = knownOf(state, pool).windows;
  if (known.filter((one) => !isScheduled(one)).length >= WARM_MAX) {
    const detail = `Pool ${pool} has ${WARM_MAX} such times, which is the most; call one off first.`;
    return refuse("request-invalid", detail);
  }
  const { max = 0 } = rules.pools.get(pool) ?? {};
  if (min > max) {
    const detail = `Pool ${pool} runs at most ${max} instances; ${min} is too many.`;
    return refuse("request-invalid", detail, { fields: [{ path: "min", message: `expected 0 to ${max}` }] });
  }
  const why = reason ?? "by an operator";
  const window = { id: newId("w", random), fromMs: begins, untilMs, min, spare, why };
  return setWindows(context, pool, [...known, window], `larger for a time: ${why}`);
}

export function cool(context: PoolsContext, { pool, window }: Doing<"plan.cool">): Decision<Done> {
  const known = knownOf(context.state, pool).windows;
  const found = known.find(({ id }) => id === window);
  if (found === undefined) {
    const accepted = known.map(({ id }) => id);
    const there = accepted.length === 0 ? "it has none" : `it has ${accepted.join(", ")}`;
    return refuse("request-invalid", `Pool ${pool} has no time ${window} in which it is to be larger; ${there}.`, {
      accepted,
    });
  }
  if (isScheduled(found)) {
    return refuse("request-invalid", `${window} is of the schedule of pool ${pool}; take it out of the configuration.`);
  }
  return setWindows(
    context,
    pool,
    known.filter((one) => one !== found),
    "called off",
  );
}
