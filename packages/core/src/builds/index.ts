export { applyBuild, countFor } from "./apply.ts";
export { decideBuild } from "./decide.ts";
export { tellBuild } from "./tell.ts";
export { buildViews, nextVersion, specOf, takesNewRooms } from "./view.ts";
