/**
 * The path that a request line asks for, as it was sent, or undefined when it names none (RFC 9112, section 3.2). Nothing
 * is decoded: no address of an upgrade has a character that would have to be.
 */
export function pathOf(target: string | undefined): string | undefined {
  if (target === undefined) return undefined;
  if (target.startsWith("/")) return target.slice(0, target.search(/[?#]|$/));
  return /^https?:\/\//i.test(target) && URL.canParse(target) ? new URL(target).pathname : undefined;
}
