import { Boxes, DoorOpen, FlaskConical, Gauge, KeyRound, Send, Shuffle, Users } from "lucide-react";

/** The areas of the console, in the order of the rail. */
export const AREAS = [
  { path: "/", label: "Overview", icon: Gauge },
  { path: "/rooms", label: "Rooms", icon: DoorOpen },
  { path: "/people", label: "People", icon: Users },
  { path: "/queues", label: "Queues", icon: Shuffle },
  { path: "/fleet", label: "Fleet", icon: Boxes },
  { path: "/try", label: "Try it", icon: FlaskConical },
  { path: "/operation", label: "Operation", icon: Send },
  { path: "/access", label: "Access", icon: KeyRound },
] as const;
