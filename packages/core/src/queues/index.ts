export { applyQueue, holdTickets, linkRoom } from "./apply.ts";
export { decideQueue } from "./decide.ts";
export { explainMatch, explainTicket } from "./explain.ts";
export { queueFaults } from "./soundness.ts";
export { tellQueue } from "./tell.ts";
export { queuePushes, queueSummary, ticketView } from "./view.ts";
