export { applyTravel } from "./apply.ts";
export { decideTravel } from "./decide.ts";
export { isSeen } from "./events.ts";
export { explainTravel } from "./explain.ts";
export { probesToRepeat } from "./recover.ts";
export { travelFaults } from "./soundness.ts";
export { tellTravel } from "./tell.ts";
export { destinationView, spreadView, travelPushes, travelView, waitingPatch } from "./view.ts";
