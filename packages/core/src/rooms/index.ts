import type { Exported } from "../model/capability.ts";
import type { RoomCommand } from "../model/rooms/commands.ts";
import type { RoomEvent } from "../model/rooms/events.ts";
import { newRoomsState } from "../model/rooms/state.ts";
import { applyRoom, markAboard, markAllAshore, markMembersAway, touchRoom } from "./apply.ts";
import { decideRoom } from "./decide.ts";
import {
  directoryPage,
  fits,
  fittingListings,
  isDirectoryCursor,
  isSeenInDirectory,
  listedRooms,
  listingChange,
} from "./directory/directory.ts";
import { nameAll } from "./directory/open-index.ts";
import { harborOfCode } from "./entry/codes.ts";
import { moderatedRoom } from "./entry/decide-leaving.ts";
import { roomViolations } from "./invariants.ts";
import { invitationsOf } from "./inviting/invitations.ts";
import { seriesRun } from "./results/series.ts";
import { levelView } from "./settings/levels.ts";
import { explainRoom } from "./start/explain.ts";
import { explainJoin } from "./start/obstacles.ts";
import { describeRoom } from "./updates/describe.ts";
import { roomPushes } from "./updates/update.ts";
import { roomListing, roomView } from "./view.ts";
import { roomsWaiting } from "./waits.ts";

/** What rooms did that were opened before members could invite others. */
const NO_INVITES = { invites: "members", inviteMs: 60_000 } as const;

/** Where players gather, agree on what to play, start, and see the result. */
export const rooms = {
  names: ["room", "board"],
  newState: () => ({ rooms: newRoomsState() }),
  decide: decideRoom,
  apply: applyRoom,
  deliveries: roomPushes,
  describe: describeRoom,
  touches: (_state, event) => ({ room: event.room, lobby: "lobby" in event ? event.lobby : undefined }),
  due: {
    "room-results": (room) => ({ do: "room.results-seen", room }),
    "room-play": (room) => ({ do: "room.overdue", room }),
    "room-host": (room) => ({ do: "room.check-host", room }),
    "room-turn": (room) => ({ do: "room.check-turn", room }),
    "room-idle": (room) => ({ do: "room.check-idle", room }),
    "room-empty": (room) => ({ do: "room.close", room }),
    "room-reservation": (room) => ({ do: "room.reservations-late", room }),
    "room-countdown": (room) => ({ do: "room.launch", room }),
  },
  invariants: roomViolations,
  waits: roomsWaiting,
  explain: { room: explainRoom, join: explainJoin },
  /** What changes with an event of another capability, or of its own, in the views that people hold. */
  also: { nameAll, touch: touchRoom, markAllAway: markMembersAway, markAboard, markAllAshore },
  views: { room: roomView, invitations: invitationsOf, listing: roomListing, level: levelView, seriesRun },
  moderated: moderatedRoom,
  harborOfCode,
  noInvites: NO_INVITES,
  directory: {
    isSeen: isSeenInDirectory,
    page: directoryPage,
    fits,
    fittingListings,
    isCursor: isDirectoryCursor,
    listedRooms,
    listingChange,
  },
} satisfies Exported<RoomCommand, RoomEvent>;
