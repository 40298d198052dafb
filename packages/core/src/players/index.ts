export { applyPlayer, befall, losePlayers } from "./apply.ts";
export { decidePlayer } from "./decide.ts";
export { tellPlayer } from "./tell.ts";
export type { PlayerPicture } from "./view.ts";
