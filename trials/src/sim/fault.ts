/** Something that must never be. `code` tells kinds of faults apart, so that a shortened script fails in the same way. */
export class Fault extends Error {
  readonly code: string;
  constructor(code: string, text: string) {
    super(text);
    this.code = code;
  }
}
