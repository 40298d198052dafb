/** Version of the players' wire. It changes when an old client would misread a frame. */
export const WIRE_VERSION = 1;

/** WebSocket subprotocol that carries {@link WIRE_VERSION} (RFC 6455, section 1.9). */
export const WIRE_SUBPROTOCOL = `yellow-harbor.${WIRE_VERSION}`;

/** Path of the players' WebSocket below the service's address. */
export const PLAY_PATH = "/v1/play";

export const NAME_MAX_CHARACTERS = 32;
export const NAME_MAX_BYTES = 160;
export const BUILD_MAX_CHARACTERS = 64;
export const CAPACITY_MIN = 1;
export const CAPACITY_MAX = 64;
export const PORT_MAX = 65_535;

/** Letters and digits of room codes: nothing that is mistaken for another in print, no vowels, so no words. */
export const CODE_ALPHABET = "CDFGHJKMNPQRTWXY34679";
export const CODE_LENGTH = 5;
/** Codes of parties are drawn by chance, and so are longer: nobody comes upon one by trying. */
export const PARTY_CODE_LENGTH = 8;
/** What else is kept of a run, as JSON. */
export const RESULT_PAYLOAD_MAX_BYTES = 8_192;
/** Attributes of a player, declared or brought to a search. */
export const ATTRIBUTES_MAX = 32;
/** Most spectators of a room. */
export const SPECTATORS_MAX = 256;
/** Characters of a room's password. */
export const PASSWORD_MIN_CHARACTERS = 4;
export const PASSWORD_MAX_CHARACTERS = 64;
/** Accounts that a player may know, and that it may have blocked. */
export const FRIENDS_MAX = 500;
export const BLOCKED_MAX = 200;
/** Most members of a party. */
export const PARTY_MAX = 16;

/** Largest frame a player may send, in bytes of UTF-8. */
export const FRAME_MAX_BYTES = 16_384;

/** Free settings of a room: how many keys, and how long a text may be. */
export const SETTINGS_MAX = 32;
export const SETTING_TEXT_MAX = 200;

/** Most rooms of a directory that is followed live. */
export const DIRECTORY_MAX = 500;

/** Path below which players reach instances through the service, followed by the instance's id. */
export const RELAY_PATH = "/v1/relay/";

/** WebSocket subprotocol of that way; the boarding pass is offered as a second one. */
export const RELAY_SUBPROTOCOL = "yellow-harbor-relay.1";
