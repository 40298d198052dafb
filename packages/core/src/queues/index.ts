export { applyQueue, holdTickets } from "./apply.ts";
export { linkRoom, unlinkRoom } from "./apply-match.ts";
export { passSoon } from "./apply-ticket.ts";
export { decideQueue } from "./decide.ts";
export { PASS_SLICE } from "./decide-matches.ts";
export { explainMatch, explainTicket } from "./explain.ts";
export { queueFaults, queueWaits } from "./soundness.ts";
export { tellQueue } from "./tell.ts";
export { endingsOf, fillingView, isSeenInRoom, matchView, queuePushes, queueSummary, ticketView } from "./view.ts";
