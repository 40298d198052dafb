import { builds } from "../builds/index.ts";
import type { EventKind, HarborEvent } from "../model/event.ts";
import { rooms } from "../rooms/index.ts";

/** An event as a journal keeps it. */
export interface WrittenEvent {
  readonly kind: EventKind;
  /** Of the form of its kind, 1 at first. */
  readonly version: number;
  /** As JSON. */
  readonly body: string;
}

/** Turns the form that one version of a kind had into that of the next. */
type Upcaster = (former: unknown) => unknown;

/** By kind: from version 1 to 2, from 2 to 3, and so on. The former forms are frozen: none is ever changed or left out. */
export type Upcasters = { readonly [K in EventKind]?: readonly Upcaster[] };

/** Journals outlive releases: when a kind gets another form, what turns the former one into it is added here. */
const upcasters: Upcasters = Object.freeze({
  "room.opened": [
    (former) => {
      const { policy, ...rest } = former as { policy: object };
      return { ...rest, policy: { ...rooms.noInvites, ...policy } };
    },
  ],
  "build.added": [(former) => ({ ...(former as object), spec: builds.upcast((former as { spec: unknown }).spec) })],
});

/** Version of the form that events of a kind have now. */
export const versionOf = (kind: EventKind, all: Upcasters = upcasters): number => 1 + (all[kind]?.length ?? 0);

export const writeEvent = (event: HarborEvent): WrittenEvent => {
  return { kind: event.kind, version: versionOf(event.kind), body: JSON.stringify(event) };
};

/** The event in today's form. Throws when a newer version of the service wrote it. */
export const readEvent = ({ kind, version, body }: WrittenEvent): HarborEvent =>
  inTodaysForm(JSON.parse(body), { kind, version });

/** The same of one whose text was taken apart already. */
export function inTodaysForm(
  written: unknown,
  { kind, version }: Pick<WrittenEvent, "kind" | "version">,
  all: Upcasters = upcasters,
): HarborEvent {
  const now = versionOf(kind, all);
  if (version === now) return written as HarborEvent;
  if (version > now) {
    throw new Error(
      `an event ${kind} has form ${version}, and this version of the service knows ${now}; start the newer one`,
    );
  }
  const steps = all[kind]?.slice(version - 1) ?? [];
  return steps.reduce((form, step) => step(form), written) as HarborEvent;
}
