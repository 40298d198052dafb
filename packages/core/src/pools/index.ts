export { applyPool } from "./apply.ts";
export { decidePool } from "./decide.ts";
export { rank } from "./rank.ts";
export { recoveryEffects } from "./recover.ts";
export { poolFaults } from "./soundness.ts";
export type { OwedPass } from "./state.ts";
export { tellPool } from "./tell.ts";
export { instanceView, owedPass, poolPushes } from "./view.ts";
