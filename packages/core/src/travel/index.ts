import type { Exported } from "../model/capability.ts";
import type { TravelCommand } from "../model/travel/commands.ts";
import { isSeen, type TravelEvent } from "../model/travel/events.ts";
import { newTravelsState } from "../model/travel/state.ts";
import { applyTravel } from "./apply.ts";
import { decideTravel } from "./decide.ts";
import { describeTravel } from "./describe.ts";
import { explainTravel } from "./explain.ts";
import { travelViolations } from "./invariants.ts";
import { owedPass } from "./passes.ts";
import { probesToRepeat } from "./recover.ts";
import { destinationView, spreadView, travelPushes, travelView, waitingPatch } from "./view.ts";

/** The move of a room to a level: somewhere to play is found, and everybody gets there. */
export const travel = {
  names: ["travel"],
  newState: () => ({ travels: newTravelsState() }),
  decide: decideTravel,
  apply: applyTravel,
  deliveries: travelPushes,
  describe: describeTravel,
  touches: (_state, event) => (isSeen(event) ? { room: event.room } : {}),
  due: { "travel-step": (run) => ({ do: "travel.expire", run }) },
  recover: probesToRepeat,
  invariants: travelViolations,
  waits: ({ travels }) => [...travels.byRun.keys()].map((run) => ["travel-step", run] as const),
  explain: { travel: explainTravel },
  views: { travel: travelView, destination: destinationView, spread: spreadView, waitingPatch, owedPass },
} satisfies Exported<TravelCommand, TravelEvent>;
