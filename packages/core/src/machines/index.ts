export { applyMachine } from "./apply.ts";
export { decideMachine } from "./decide.ts";
export { tellMachine } from "./tell.ts";
export { machineViews } from "./view.ts";
