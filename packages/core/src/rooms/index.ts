export { applyRoom, markMembersAway, touchRoom } from "./apply.ts";
export { decideRoom } from "./decide.ts";
export {
  directoryPage,
  fits,
  fittingListings,
  isDirectoryCursor,
  isSeenInDirectory,
  type ListingChange,
  listedRooms,
  listingChange,
} from "./directory.ts";
export { explainRoom } from "./explain.ts";
export { levelView } from "./levels.ts";
export { roomPushes } from "./news.ts";
export { explainJoin } from "./obstacles.ts";
export { roomFaults } from "./soundness.ts";
export { tellRoom } from "./tell.ts";
export { roomListing, roomView } from "./view.ts";
