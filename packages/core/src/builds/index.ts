export { applyBuild, countFor } from "./apply.ts";
export { decideBuild } from "./decide.ts";
export type { BuildEvent } from "./events.ts";
export { tellBuild } from "./tell.ts";
export { buildViews, nextVersion, specOf, takesNewRooms } from "./view.ts";
