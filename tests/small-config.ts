/** A harbor that needs no server: one lobby, one kind of room whose matches the service relays. */
export const SMALL_CONFIG = `harbor: small
listen: { port: 0 }
players: { builds: [game-1] }
lobbies: { quayside: { title: Quayside, roomKinds: [crews] } }
roomKinds: { crews: { capacity: { max: 4 }, levels: [brine-gate], destinations: [relayed] } }
levels: { brine-gate: { title: Brine Gate, players: { min: 1, max: 4 } } }
`;
