import { accept, type Decision, nothingToDo, type PoolsContext } from "../model/decision.ts";
import type { Effect } from "../model/effect.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import type { Instance } from "../model/pools/state.ts";

const STRANGER_MS = 60_000;

/** The instance has an instruction more than it has been given so far. */
export const wakeUp = ({ id, instructionsGiven }: Instance): Effect => ({
  effect: "wake-instance",
  instance: id,
  upTo: instructionsGiven + 1,
});

/** Whether it came to its end on its way up. */
const neverOpen = ({ state }: Instance): { neverOpen?: true } =>
  state === "launched" || state === "booting" ? { neverOpen: true } : {};

/** The polite instruction to stop. */
export function stopEvent(
  instance: Instance,
  reason: string,
  at: number,
): Extract<PoolEvent, { kind: "instance.stop-requested" }> {
  const number = instance.instructionsGiven + 1;
  return { kind: "instance.stop-requested", instance: instance.id, number, reason, stopByMs: at + instance.stopMs };
}

/** How it hears of that: one that knows nothing of us by a signal, since it takes no instructions. */
export const stopEffect = (instance: Instance): Effect =>
  instance.isWatched ? { effect: "signal-instance", instance: instance.id, signal: "terminate" } : wakeUp(instance);

/** Something is wrong with a live instance: it is given up and its process killed. */
export function fail(instance: Instance, why: string): Decision {
  if (instance.gone || instance.state === "failed") return nothingToDo;
  const { id, holds } = instance;
  const rooms = [...holds.keys()];
  return accept([{ kind: "instance.failed", instance: id, why, rooms, ...neverOpen(instance) }], {
    effects: [{ effect: "signal-instance", instance: id, signal: "kill" }],
  });
}

export function stopLate({ at }: PoolsContext, instance: Instance): Decision {
  if (instance.gone) return nothingToDo;
  const event = {
    kind: "instance.stop-forced",
    instance: instance.id,
    how: "terminate",
    killByMs: at + instance.stopMs,
  } as const;
  return accept([event], { effects: [{ effect: "signal-instance", instance: instance.id, signal: "terminate" }] });
}

export function killLate(instance: Instance): Decision {
  if (instance.gone) return nothingToDo;
  const event = { kind: "instance.stop-forced", instance: instance.id, how: "kill", killByMs: null } as const;
  return accept([event], { effects: [{ effect: "signal-instance", instance: instance.id, signal: "kill" }] });
}

/** The process is gone, however that came. Whether it was meant to go decides between ended and failed. */
export function exited(
  { at }: PoolsContext,
  instance: Instance,
  exitCode: number | null,
  signal: string | null,
): Decision {
  if (instance.gone) return nothingToDo;
  const { id, holds, state, why } = instance;
  const rooms = [...holds.keys()];
  const how = describeExit(exitCode, signal);
  const meant = state === "draining" || instance.exiting;
  const verdict =
    state === "failed"
      ? ({ state, why: `${why}; ${how}` } as const)
      : meant
        ? ({ state: "ended", why: `${why}; ${how}` } as const)
        : ({ state: "failed", why: `${how} without being asked to` } as const);
  const portFreeAtMs = at + instance.portRestMs;
  const early = verdict.state === "failed" ? neverOpen(instance) : {};
  const first = verdict.state === "failed" && state !== "failed" ? ({ first: true } as const) : {};
  return accept([
    { kind: "instance.exited", instance: id, ...verdict, exitCode, signal, rooms, portFreeAtMs, ...early, ...first },
  ]);
}

/** Nothing was started. A port that a stranger listens on is left alone for a while, or it would be tried again at once. */
export function startFailed({ at }: PoolsContext, instance: Instance, detail: string, portTaken: boolean): Decision {
  if (instance.gone) return nothingToDo;
  const { id, holds, portRestMs } = instance;
  const portFreeAtMs = at + (portTaken ? Math.max(portRestMs, STRANGER_MS) : portRestMs);
  const why = `could not be started: ${detail}`;
  return accept([
    {
      kind: "instance.exited",
      instance: id,
      state: "failed",
      why,
      exitCode: null,
      signal: null,
      rooms: [...holds.keys()],
      portFreeAtMs,
      // A port that somebody else has says nothing of the build, the machine or the travel.
      ...(portTaken ? { portTaken } : { first: true, ...neverOpen(instance) }),
    },
  ]);
}

function describeExit(exitCode: number | null, signal: string | null): string {
  if (signal !== null) return `ended by ${signal}`;
  return exitCode === null ? "gone; nobody saw its exit code" : `exited with code ${exitCode}`;
}
