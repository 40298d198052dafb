/** Length in UTF-8. Core has no encoder of its own, so the code points are counted. */
export function bytesOf(text: string): number {
  let bytes = 0;
  for (const character of text) {
    const point = character.codePointAt(0) ?? 0;
    bytes += point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x1_0000 ? 3 : 4;
  }
  return bytes;
}
