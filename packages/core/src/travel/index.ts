export { applyTravel } from "./apply.ts";
export { decideTravel } from "./decide.ts";
export { explainTravel } from "./explain.ts";
export { travelFaults } from "./soundness.ts";
export { tellTravel } from "./tell.ts";
export { travelPushes, travelView } from "./view.ts";
