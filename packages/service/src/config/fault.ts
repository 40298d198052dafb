/** A fault at a place of the configuration. */
export interface Fault {
  readonly path: readonly PropertyKey[];
  readonly message: string;
  /** The unknown key itself, when the fault is one. */
  readonly key?: string;
}
