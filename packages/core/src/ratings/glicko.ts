// Glicko-2, after M. E. Glickman, "Example of the Glicko-2 system" (2013, revised 2022): the steps are numbered as there.

/** What the paper's scale is divided by, and what its middle is. */
const SCALE = 173.7178;
const MIDDLE = 1_500;
/** How exactly step 5 is solved: the paper's epsilon. */
const EPSILON = 0.000_001;
/** The solution is found in a dozen steps or so. */
const STEPS_MAX = 200;
/** The largest deviation of the paper's examples: less is known of nobody. */
export const DEVIATION_MAX = 350;

export interface Known {
  readonly rating: number;
  readonly deviation: number;
  readonly volatility: number;
}

export interface Opponent {
  readonly rating: number;
  readonly deviation: number;
  /** 1 for a win against it, 0.5 for a draw, 0 for a loss. */
  readonly score: number;
}

export interface Method {
  readonly tau: number;
  /** How many rating periods have gone by since the last result, in parts of one too. */
  readonly periods: number;
}

/** Step 3: how much an opponent counts for, by how certain its rating is. */
const g = (phi: number) => 1 / Math.sqrt(1 + (3 * phi * phi) / (Math.PI * Math.PI));

/** Step 3: the expected score against an opponent, both on the paper's inner scale. */
const expected = (mu: number, other: { readonly mu: number; readonly phi: number }) =>
  1 / (1 + Math.exp(-g(other.phi) * (mu - other.mu)));

/** The expected score of one rating against another, from 0 to 1. */
export const expectedScore = (rating: number, opponent: Pick<Opponent, "rating" | "deviation">): number =>
  expected((rating - MIDDLE) / SCALE, { mu: (opponent.rating - MIDDLE) / SCALE, phi: opponent.deviation / SCALE });

/** A rating after results, all at once as in one rating period of the paper. `as` is the rating that plays, where that is not its own. */
export function rated(
  known: Known,
  opponents: readonly Opponent[],
  { tau, periods }: Method,
  as = known.rating,
): Known {
  // Step 2.
  const [mu, phi, sigma] = [(known.rating - MIDDLE) / SCALE, known.deviation / SCALE, known.volatility];
  const plays = (as - MIDDLE) / SCALE;
  if (opponents.length === 0) return { ...known, deviation: idle(known, periods) };
  // Steps 3 and 4.
  let [certainty, surprise] = [0, 0];
  for (const { rating, deviation, score } of opponents) {
    const other = { mu: (rating - MIDDLE) / SCALE, phi: deviation / SCALE };
    const e = expected(plays, other);
    certainty += g(other.phi) ** 2 * e * (1 - e);
    surprise += g(other.phi) * (score - e);
  }
  const v = 1 / certainty;
  const volatility = volatilityAfter({ phi, sigma, v, delta: v * surprise, tau });
  // Steps 6 and 7.
  const before = Math.min(Math.sqrt(phi * phi + volatility * volatility * periods), DEVIATION_MAX / SCALE);
  const after = 1 / Math.sqrt(1 / (before * before) + 1 / v);
  return { rating: SCALE * (mu + after * after * surprise) + MIDDLE, deviation: SCALE * after, volatility };
}

/** Step 6 for whoever has not played: a deviation after so many periods. */
export const idle = ({ deviation, volatility }: Known, periods: number): number =>
  Math.min(SCALE * Math.sqrt((deviation / SCALE) ** 2 + volatility * volatility * periods), DEVIATION_MAX);

interface Surprise {
  readonly phi: number;
  readonly sigma: number;
  readonly v: number;
  readonly delta: number;
  readonly tau: number;
}

/** Step 5, by the Illinois method. */
function volatilityAfter({ phi, sigma, v, delta, tau }: Surprise): number {
  const a = Math.log(sigma * sigma);
  const f = (x: number) => {
    const power = Math.exp(x);
    const all = phi * phi + v + power;
    return (power * (delta * delta - phi * phi - v - power)) / (2 * all * all) - (x - a) / (tau * tau);
  };
  let left = a;
  let right = Math.log(Math.max(delta * delta - phi * phi - v, Number.MIN_VALUE));
  if (delta * delta <= phi * phi + v) {
    let k = 1;
    while (f(a - k * tau) < 0 && k < STEPS_MAX) k += 1;
    right = a - k * tau;
  }
  let [fLeft, fRight] = [f(left), f(right)];
  for (let n = 0; n < STEPS_MAX && Math.abs(right - left) > EPSILON; n++) {
    const middle = left + ((left - right) * fLeft) / (fRight - fLeft);
    const fMiddle = f(middle);
    if (fMiddle * fRight <= 0) [left, fLeft] = [right, fRight];
    else fLeft /= 2;
    [right, fRight] = [middle, fMiddle];
  }
  return Math.exp(left / 2);
}
