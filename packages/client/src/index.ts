export { mergePatch } from "./merge-patch.ts";
export { OperatorClient, type OperatorOptions } from "./operator/operator-client.ts";
export { type Backoff, pauseMs } from "./player/backoff.ts";
export type { PlayerOptions } from "./player/options.ts";
export { applyNews, type Patched, type Picture } from "./player/picture.ts";
export { PlayerClient } from "./player/player-client.ts";
export type { PlayerEvents } from "./player/player-client-events.ts";
export { platformSocket, type SocketLike, type SocketMaker } from "./player/socket.ts";
export { ProblemError } from "./problem-error.ts";
