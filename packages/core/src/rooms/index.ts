export { applyRoom, touchRoom } from "./apply.ts";
export { decideRoom } from "./decide.ts";
export { explainRoom } from "./explain.ts";
export { tellRoom } from "./tell.ts";
export { roomListing, roomPushes, roomView } from "./view.ts";
