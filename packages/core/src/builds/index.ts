export { applyBuild, countFor } from "./apply.ts";
export { decideBuild } from "./decide.ts";
export { tellBuild } from "./tell.ts";
export { buildViews, nextVersion, rollingOut, specOf, takesNewRooms } from "./view.ts";
