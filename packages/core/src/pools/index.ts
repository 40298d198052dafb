export { applyPool } from "./apply.ts";
export { decidePool } from "./decide.ts";
export { recoveryEffects } from "./recover.ts";
export type { OwedPass } from "./state.ts";
export { tellPool } from "./tell.ts";
export { instanceView, owedPass } from "./view.ts";
