// Letters that look like Latin ones, after the case was folded. The most common of those that Unicode lists as
// confusable (UTS #39, section 4): Cyrillic, Greek and Armenian small letters, and figures.
const LOOK_ALIKE: Readonly<Record<string, string>> = {
  ...{ а: "a", в: "b", с: "c", ԁ: "d", е: "e", һ: "h", і: "i", ј: "j", к: "k", ӏ: "l", м: "m", н: "h", о: "o" },
  ...{ р: "p", ԛ: "q", г: "r", ѕ: "s", т: "t", у: "y", ѵ: "v", ԝ: "w", х: "x", п: "n", ь: "b", ё: "e", з: "3" },
  ...{ α: "a", β: "b", γ: "y", ε: "e", η: "n", ι: "i", κ: "k", ν: "v", ο: "o", ρ: "p", τ: "t", υ: "u", χ: "x", ω: "w" },
  ...{ օ: "o", ս: "u", հ: "h", ո: "n", ց: "g", զ: "q" },
  ...{ ı: "i", ɑ: "a", ɡ: "g", ɩ: "i", ʏ: "y", "0": "o", "1": "l", "|": "l", ǀ: "l", "5": "s" },
};

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
  for (const letter of folded) skeleton += LOOK_ALIKE[letter] ?? letter;
  // An i and an l are one stroke each.
  return skeleton.replace(/i/g, "l").replace(/rn/g, "m").replace(/vv/g, "w");
}
