export {
  type AddressKind,
  addressKind,
  isLoopback,
  isUsable,
  kindWords,
  networkOf,
  sameAddress,
} from "./address-kind.ts";
export { type Diagnosis, diagnose, type Step, type Target } from "./diagnose.ts";
export { type Listening, listeningPorts } from "./listening.ts";
export { type FoundKey, findKey, noteKeyFile } from "./local-key.ts";
export { type OwnAddress, ownAddresses } from "./own-addresses.ts";
export { type Tried, tryTcp } from "./tcp.ts";
export { type Asked, askUdp } from "./udp.ts";
export { udpRoundTrips } from "./udp-echo.ts";
