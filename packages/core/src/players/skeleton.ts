// Letters that look like Latin ones, after the case was folded. The most common of those that Unicode lists as
// confusable (UTS #39, section 4): Cyrillic, Greek and Armenian small letters, and figures.
const LOOK_ALIKE: ReadonlyMap<string, string> = new Map(
  (
    [
      ["a", "аαɑ"],
      ["b", "вьβ"],
      ["c", "с"],
      ["d", "ԁ"],
      ["e", "еёε"],
      ["h", "һнհ"],
      ["i", "іιıɩ"],
      ["j", "ј"],
      ["k", "кκ"],
      ["l", "ӏ1|ǀ"],
      ["m", "м"],
      ["o", "оοօ0"],
      ["p", "рρ"],
      ["q", "ԛզ"],
      ["r", "г"],
      ["s", "ѕ5"],
      ["t", "тτ"],
      ["y", "уγʏ"],
      ["v", "ѵν"],
      ["w", "ԝω"],
      ["x", "хχ"],
      ["n", "пηո"],
      ["3", "з"],
      ["u", "υս"],
      ["g", "ցɡ"],
    ] as const
  ).flatMap(([latin, others]) => [...others].map((other) => [other, latin] as const)),
);

/**
 * What is left of a name when all is taken away that readers hardly see: two names with the same skeleton look alike.
 * Compatibility forms are folded, then case, marks, joiners, blanks and hyphens go, and letters that look like Latin ones
 * become those (after UTS #39, section 4, with the commonest of its table).
 */
export function nameSkeleton(name: string): string {
  const folded = name
    .normalize("NFKD")
    .toLowerCase()
    .replace(/[\p{M}\p{Cf}\p{Z}\p{Pd}_.]/gu, "");
  let skeleton = "";
  for (const letter of folded) skeleton += LOOK_ALIKE.get(letter) ?? letter;
  // An i and an l are one stroke each.
  return skeleton.replace(/i/g, "l").replace(/rn/g, "m").replace(/vv/g, "w");
}
