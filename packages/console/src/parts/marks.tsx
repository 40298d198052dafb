import type { BuildVersionState, InstanceState, Phase, PoolView, QueueMode, TicketView } from "@yellow-harbor/protocol";
import {
  CircleAlert,
  CircleCheck,
  CircleDashed,
  CircleDot,
  CirclePause,
  CircleSlash,
  Hourglass,
  type LucideIcon,
  Play,
  Ship,
  Trophy,
} from "lucide-react";

type Tone = "calm" | "well" | "attention" | "fault" | "quiet";

const toneClass: Record<Tone, string> = {
  calm: "text-info",
  well: "text-success",
  attention: "text-warning",
  fault: "text-error",
  quiet: "opacity-75",
};

/** A state as a shape and a word in a colour: never the colour alone. */
function Mark({ icon: Icon, tone, word }: { icon: LucideIcon; tone: Tone; word: string }) {
  return (
    <span className={`inline-flex items-center gap-1.5 whitespace-nowrap ${toneClass[tone]}`}>
      <Icon size={14} aria-hidden />
      {word}
    </span>
  );
}

const phases: Record<Phase, { icon: LucideIcon; tone: Tone }> = {
  gathering: { icon: CircleDashed, tone: "calm" },
  counting: { icon: Hourglass, tone: "attention" },
  travelling: { icon: Ship, tone: "attention" },
  playing: { icon: Play, tone: "well" },
  results: { icon: Trophy, tone: "well" },
  closed: { icon: CircleSlash, tone: "quiet" },
};

export function PhaseMark({ phase }: { phase: Phase }) {
  return <Mark {...phases[phase]} word={phase} />;
}

const states: Record<InstanceState, { icon: LucideIcon; tone: Tone }> = {
  launched: { icon: Hourglass, tone: "attention" },
  booting: { icon: Hourglass, tone: "attention" },
  open: { icon: CircleDot, tone: "calm" },
  busy: { icon: Play, tone: "well" },
  draining: { icon: Hourglass, tone: "attention" },
  ended: { icon: CircleSlash, tone: "quiet" },
  failed: { icon: CircleAlert, tone: "fault" },
};

export function StateMark({ state }: { state: InstanceState }) {
  return <Mark {...states[state]} word={state} />;
}

const modes: Record<QueueMode, { icon: LucideIcon; tone: Tone }> = {
  open: { icon: CircleDot, tone: "well" },
  paused: { icon: CirclePause, tone: "attention" },
  draining: { icon: Hourglass, tone: "attention" },
};

export function ModeMark({ mode }: { mode: QueueMode }) {
  return <Mark {...modes[mode]} word={mode} />;
}

/** How a pool is planned: the word that matters most now. */
export function PlannerMark({ pool: { plan, mode, pinned, failures } }: { pool: PoolView }) {
  if (plan === undefined) return <Mark icon={CircleDashed} tone="quiet" word="on demand" />;
  if (mode === "paused") return <Mark icon={CirclePause} tone="attention" word="paused" />;
  if (failures > 0) return <Mark icon={CircleAlert} tone="fault" word={`${failures} failed`} />;
  return <Mark icon={CircleDot} tone="well" word={pinned === undefined ? "planned" : `pinned to ${pinned}`} />;
}

const builds: Record<BuildVersionState, { icon: LucideIcon; tone: Tone }> = {
  current: { icon: CircleCheck, tone: "well" },
  canary: { icon: Hourglass, tone: "attention" },
  former: { icon: CircleSlash, tone: "quiet" },
  "rolled-back": { icon: CircleAlert, tone: "fault" },
};

export function BuildMark({ state }: { state: BuildVersionState }) {
  return <Mark {...builds[state]} word={state} />;
}

const tickets: Record<TicketView["state"], { icon: LucideIcon; tone: Tone }> = {
  asking: { icon: CircleDashed, tone: "attention" },
  searching: { icon: CircleDot, tone: "calm" },
  held: { icon: CirclePause, tone: "attention" },
  confirming: { icon: CircleCheck, tone: "well" },
};

export function TicketMark({ state }: { state: TicketView["state"] }) {
  return <Mark {...tickets[state]} word={state} />;
}

export function ReadyMark({ ready, away }: { ready: boolean; away: boolean }) {
  if (away) return <Mark icon={Hourglass} tone="attention" word="away" />;
  return ready ? (
    <Mark icon={CircleCheck} tone="well" word="ready" />
  ) : (
    <Mark icon={CircleDashed} tone="quiet" word="not ready" />
  );
}
