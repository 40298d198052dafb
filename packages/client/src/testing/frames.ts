/** Frames of a service as a client hears them, with what a test looks at. */
export const lobby = {
  id: "quayside",
  revision: 1,
  players: {},
  counts: { players: 0, rooms: 0, inRooms: 0, searching: 0 },
};
export const room = (revision: number) => ({
  id: "r_000000000001",
  code: "K7RDM",
  revision,
  phase: "gathering",
  members: {},
  missing: [],
  board: {},
});
export const welcome = (more: object = { lobby }) => ({
  frame: "welcome",
  wire: 1,
  harbor: "test",
  player: { id: "p_000000000001", name: "Ansel" },
  resumed: false,
  resume: "token",
  heartbeatEveryMs: 60_000,
  silenceMs: 120_000,
  ...more,
});
export const update = (revision: number, patch: object) => ({
  frame: "update",
  scope: "room",
  id: "r_000000000001",
  revision,
  event: { kind: "room-opened" },
  patch,
});
